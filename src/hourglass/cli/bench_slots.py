"""Measuring how long a slot's change takes in Chromium, from the choice to the figure that is current."""

import time
from typing import Any

import numpy as np
from playwright.sync_api import Page, sync_playwright

from hourglass.cli.bench_page import GROUPS, QUIET, client_of, demo_study, large_study, program
from hourglass.cli.machine import chromium

TIMES = 5
"""Changes of each slot; their median is told."""
PATIENCE_MS = 60_000
CHANGES = (
    ("estimate", "scale", ("log", "linear", "log–log")),
    ("estimate", "intervals", ("no intervals", "pointwise intervals")),
    ("compare", "weight", ("early times more, by n", "all times equally")),
)
"""Stages with a slot of each, and the options that are chosen in turn."""
CHOSEN = """slot => {
    const main = document.querySelector('main');
    const word = document.querySelector(`[data-slot="${slot}"]`).innerText;
    const begun = performance.now();
    return new Promise(done => {
        const look = () => {
            const now = document.querySelector(`[data-slot="${slot}"]`)?.innerText;
            if (now !== undefined && now !== word && main.dataset.changing === 'false')
                requestAnimationFrame(() => done(performance.now() - begun));
            else requestAnimationFrame(look);
        };
        document.querySelector('[data-wanted]').click();
        look();
    });
}"""


def run_slot_bench() -> None:
    """Print how long a slot's change takes on the demo, on 10⁵ and on 10⁶ rows."""
    with program(processes=2) as (database, address, folder):
        client = client_of(address)
        studies = [("the demo", demo_study(database, folder))]
        for rows in (100_000, 1_000_000):
            studies.append((f"{rows:,} rows", large_study(client, rows // len(GROUPS))))
        with sync_playwright() as playwright:
            opened = playwright.chromium.launch(executable_path=chromium(), args=QUIET)
            page = opened.new_page(viewport={"width": 1280, "height": 800})
            page.set_default_timeout(PATIENCE_MS)
            for name, study in studies:
                _measure(page, f"{address}/studies/{study}", name)
            opened.close()


def _measure(page: Page, address: str, name: str) -> None:
    for stage, slot, options in CHANGES:
        page.goto(f"{address}/{stage}")
        page.locator("main[data-changing='false'] .track-survival").wait_for()
        page.wait_for_load_state("networkidle")
        taken = [_choose(page, slot, options[k % len(options)]) for k in range(TIMES + 1)]
        median = float(np.median(taken[1:]))  # the first one wakes up a process
        print(f"{f'{stage}, {slot}: {name}':<46}{median:>10.0f} ms  worst {max(taken[1:]):.0f} ms")


def _choose(page: Page, slot: str, option: str) -> float:
    """Milliseconds from choosing an option to the figure that is current."""
    page.locator(f"[data-slot='{slot}']").click()
    items = page.get_by_role("menuitem")
    items.first.wait_for()
    wanted: Any = next(
        item for item in items.all() if item.locator(".option-label").inner_text() == option
    )
    wanted.evaluate("item => { item.dataset.wanted = 'yes'; }")
    found = float(page.evaluate(CHOSEN, slot))
    time.sleep(0.4)  # the menu goes
    return found

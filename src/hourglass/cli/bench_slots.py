"""Measuring how long a slot's change takes in Chromium, from the choice to the figure that is current."""

import time
from typing import Any

import numpy as np
from playwright.sync_api import Page, sync_playwright

from hourglass.analysis.catalogue.intervals import INTERVALS, NO_INTERVAL, POINTWISE
from hourglass.analysis.catalogue.scales import INTERVAL_SCALES
from hourglass.analysis.catalogue.weights import WEIGHTS
from hourglass.cli.bench_page import GROUPS, QUIET, client_of, demo_study, large_study, program
from hourglass.cli.machine import chromium
from hourglass.core.comparison.weights import AT_RISK, EQUAL

TIMES = 5
"""Changes of each slot; their median is printed."""
PATIENCE_MS = 60_000
FEW_CHANGES, MANY_CHANGES = 20, 500
"""After so many changes of a slot the memory of the page is measured."""
CHANGES = (
    ("estimate", "scale", tuple(INTERVAL_SCALES[key].name for key in ("log", "linear", "log-log"))),
    ("estimate", "intervals", (INTERVALS[NO_INTERVAL].name, INTERVALS[POINTWISE].name)),
    ("compare", "weight", (WEIGHTS[AT_RISK.key].name, WEIGHTS[EQUAL.key].name)),
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
            _memory(opened.new_page(), f"{address}/studies/{studies[0][1]}")
            opened.close()


def _memory(page: Page, address: str) -> None:
    """Print what the page holds after many changes of a slot, against what it held after few."""
    stage, slot, options = CHANGES[0]
    page.set_default_timeout(PATIENCE_MS)
    page.goto(f"{address}/{stage}")
    page.locator("main[data-changing='false'] .track-survival").wait_for()
    held = []
    for k in range(1, MANY_CHANGES + 1):
        _choose(page, slot, options[k % len(options)])
        if k in (FEW_CHANGES, MANY_CHANGES):
            held.append(_held(page))
    few, many = (size / 2**20 for size in held)
    print(
        f"{f'the page after {MANY_CHANGES} changes, MB':<46}{many:>10.1f}  {many / few:8.2f} × that after "
        f"{FEW_CHANGES}"
    )


def _held(page: Page) -> float:
    """Bytes that the scripts of a page hold, once nothing is left to be collected."""
    session = page.context.new_cdp_session(page)
    session.send("HeapProfiler.enable")
    session.send("HeapProfiler.collectGarbage")
    session.send("Performance.enable")
    metrics = session.send("Performance.getMetrics")["metrics"]
    session.detach()
    return float(next(one["value"] for one in metrics if one["name"] == "JSHeapUsedSize"))


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

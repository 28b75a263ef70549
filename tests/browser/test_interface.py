"""The interface for programs: its page without the network, and the client of the documents."""

import json
import subprocess
import sys
from pathlib import Path

import httpx
import pytest

from hourglass.cli.run_plan import ALL_FITS, run_plan

ROOT = Path(__file__).parents[2]
LEFT_OUT = ("weights", "estimates", "terms", "contrasts", "candidates", "curves", "forest")


def test_the_page_describes_every_address_with_scripts_of_its_own(page):
    stated = []
    page.on("request", lambda request: stated.append(request.url))
    page.goto(f"{page.address}/api/docs")
    page.locator('[data-path="/api/studies/{study_id}/report.{form}"]').wait_for()
    assert [url for url in stated if not url.startswith((page.address, "data:"))] == []


@pytest.fixture(scope="module")
def plan(tmp_path_factory, address):
    """The plan of the demo as the server saves it, in a file."""
    studies = httpx.get(f"{address}/api/studies", timeout=60).json()["studies"]
    study = next(s["id"] for s in studies if s["name"] == "Larkmoor corneal grafts")
    saved = httpx.get(f"{address}/api/studies/{study}/plan.json", timeout=60).json()
    words = {"stage": "report", "statement": {"version": 3, "left_out": LEFT_OUT}}
    file = tmp_path_factory.mktemp("plan") / "plan.json"
    check = {"stage": "check"}
    file.write_text(json.dumps({**saved, "analyses": [*saved["analyses"], check, words]}), "utf-8")
    return file


def test_server_and_command_line_make_the_same_numbers_of_a_plan(plan, address, tmp_path):
    data = ROOT / "demo" / "larkmoor_grafts.csv"
    out = tmp_path / "report.md"
    command = [sys.executable, str(ROOT / "docs" / "client.py"), address, plan, data, out]
    printed = subprocess.run(command, check=True, capture_output=True, text=True).stdout
    assert "Following 600 grafts to rejection" in out.read_text("utf-8")
    assert run_plan(plan, data, tmp_path / "run") == ALL_FITS
    results = json.loads((tmp_path / "run" / "results.json").read_text("utf-8"))["results"]
    ratios = [c for term in results["model"]["terms"] for c in term["coefficients"]]
    assert [line.split("\t")[2] for line in printed.splitlines()] == [
        str(c["adjusted"]["ratio"]) for c in ratios
    ]
    studies = httpx.get(f"{address}/api/studies", timeout=60).json()["studies"]
    study = next(s["id"] for s in studies if s["name"] == "larkmoor_grafts")
    del results["prepare"]  # whose findings go by the day it is looked at
    del results["baseline"]  # which the server has in a file of its own
    assert {
        "estimate",
        "compare",
        "model",
        "check",
        "model/ranking",
        "model/medians",
    } <= results.keys()
    for key, result in results.items():
        stage, _, part = key.partition("/")
        place = f"{stage}/parts/{part}" if part else stage
        shown = answered(f"{address}/api/studies/{study}/{place}")
        for one in (shown, result):
            one.pop("drawing", None), one.pop("figure", None)
        assert without_lengths(shown) == without_lengths(result), key


def without_lengths(value):
    """A result without what the server sends of a series, so that a page knows whether it has all of it."""
    if isinstance(value, list):
        return [without_lengths(one) for one in value]
    if not isinstance(value, dict):
        return value
    return {k: without_lengths(v) for k, v in value.items() if k not in ("length", "key")}


def answered(address):
    """The result that an address brings, once the work is done."""
    while True:
        reply = httpx.get(address, timeout=60).json()
        if reply["result"] is not None:
            return reply["result"]

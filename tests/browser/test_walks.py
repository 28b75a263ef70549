"""What analysts ask for, each within so many actions: a slot set, a button chosen, a value typed."""

import re

import httpx
import numpy as np
import pytest
from playwright.sync_api import expect

from hourglass.core.comparison.adjustments import ADJUSTMENTS, adjusted
from hourglass.core.variants import variant

NAME = "Larches on six slopes"
NUMBERS = ("height", "girth", "slope", "shade", "water", "warmth")
LARKMOOR = "Larkmoor corneal grafts"


@pytest.fixture(scope="module")
def study(address):
    """A study of 240 larches: three provenances, six numbers, one of them below 0 at times."""
    random = np.random.default_rng(11)
    values = random.normal(loc=[20, 40, 15, 5, 3, 0], size=(240, 6)).round(2)
    provenance = random.integers(0, 3, 240)
    hazard = np.exp(0.7 * (provenance == 2) + 0.5 * values[:, 5])
    t, c = random.exponential(30 / hazard), random.uniform(5, 60, 240)
    lines = [f"months,felled,provenance,{','.join(NUMBERS)}"]
    for k in range(240):
        cells = ",".join(f"{v:g}" for v in values[k])
        time, event = round(min(t[k], c[k]), 1) + 0.1, int(t[k] <= c[k])
        lines.append(f"{time:g},{event},{('fell', 'moor', 'tarn')[provenance[k]]},{cells}")
    with httpx.Client(base_url=str(address), timeout=60) as client:
        made = client.post("/api/studies", json={"name": NAME}).json()["id"]
        at = client.get(f"/api/studies/{made}").headers["etag"]
        sent = {"params": {"name": "larches.csv"}, "content": "\n".join(lines).encode()}
        file = client.put(f"/api/studies/{made}/file", headers={"If-Match": at}, **sent)
        file.raise_for_status()
        follow_up = {
            "clock": {"kind": "duration", "column": "months"},
            "unit": "months",
            "outcome": "felled",
            "meanings": {"1": {"meaning": "event"}, "0": {"meaning": "censored"}},
        }
        at = client.get(f"/api/studies/{made}").headers["etag"]
        stated = client.put(
            f"/api/studies/{made}/follow-up", headers={"If-Match": at}, json=follow_up
        )
        stated.raise_for_status()
    return made


class Walk:
    """A page on which every action is counted."""

    def __init__(self, page):
        self.page, self.actions = page, 0

    def click(self, found):
        found.click()
        self.actions += 1
        self.page.locator("main[data-changing='false']").wait_for()

    def choose(self, slot, option):
        self.page.slot(slot).click()
        self.click(self.page.get_by_role("menuitem", name=re.compile(f"^{re.escape(option)}")))

    def add(self, title, option):
        self.page.button(title).click()
        self.click(self.page.get_by_role("menuitem", name=re.compile(f"^{re.escape(option)}")))

    def type(self, slot, label, text):
        self.page.slot(slot).click()
        self.page.get_by_label(label).fill(text)
        self.page.page.keyboard.press("Enter")
        self.actions += 1
        self.page.locator("main[data-changing='false']").wait_for()


def cells(page, table):
    return {row[0].split("\n")[0]: row for row in page.table(table)}


def pairs(page):
    """The adjusted and the raw p of each pair of groups."""
    cells = [cell for row in page.table("Pairs of groups") for cell in row if "raw" in cell]
    return [cell.split("\nraw ") for cell in cells]


def test_five_variables_split_at_their_medians_stand_in_one_figure(page, study):
    page.open(NAME, "compare")
    walk = Walk(page)
    walk.choose("by", "each variable in turn")
    expect(page.slot("variables")).to_have_text("all 7 variables")
    for k in range(1, 6):
        walk.choose(f"split-{k}", "at its median")
    assert walk.actions <= 6
    named = re.compile(f"^(provenance|{'|'.join(NUMBERS)}), p")
    panels = page.locator(".layers .end-label", has_text=named)
    expect(panels).to_have_count(7)
    assert sum("at its median" in row[0] for row in page.table("Each variable in turn")) == 5


def test_six_numbers_are_tested_at_thresholds_of_ones_own(page, study):
    page.open(NAME, "compare")
    walk = Walk(page)
    walk.choose("by", "each variable in turn")
    for k, threshold in enumerate(("20.5", "40", "15", "5.2", "3", "-0.4")):
        walk.type(f"split-{k + 1}", f"Threshold of {NUMBERS[k]}", threshold)
    assert walk.actions <= 8
    found = cells(page, "Each variable in turn")
    assert found["warmth"][0] == "warmth\nat −0.4"
    assert all("\nat " in found[name][0] for name in NUMBERS)
    assert "beforehand" not in "".join(found["height"]), "its threshold was not moved"
    walk.type("split-1", "Threshold of height", "19.5")
    expect(page.get_by_text("height at 2 thresholds")).to_be_visible()
    assert (
        "if this threshold was stated beforehand"
        in cells(page, "Each variable in turn")["height"][0]
    )


def test_pairs_and_bands_of_three_groups(page, study):
    page.open(NAME, "compare")
    walk = Walk(page)
    walk.choose("by", "provenance")
    walk.add("Pairs of groups", "all pairs")
    walk.choose("adjustment", "Šidák")
    shown, raw = zip(*pairs(page))
    wanted = adjusted([float(p.lstrip("< ")) for p in raw], variant(ADJUSTMENTS, "Šidák"))
    assert len(shown) == 3
    for p, own, q in zip(shown, raw, wanted):
        assert p.startswith("<") if own.startswith("<") else abs(float(p) - q) < 0.006
    walk.choose("pairs", "each against")
    assert len(pairs(page)) == 2
    page.stage("Estimate")
    walk.choose("by", "provenance")
    walk.choose("intervals", "simultaneous bands (Hall")
    page.button("Add track").click()
    dialog = page.get_by_role("dialog", name="Tracks")
    walk.click(dialog.get_by_label("Each group apart", exact=True))
    walk.click(dialog.get_by_label("Pointwise limits inside the band").last)
    page.page.keyboard.press("Escape")
    shaded = page.locator(".track-apart path.band")
    expect(shaded).to_have_count(6)
    walk.choose("intervals", "simultaneous bands (equal")
    expect(shaded).to_have_count(6)
    page.get_by_text(re.compile("Darker, inside the band: 95% CI")).first.wait_for()
    assert all(len(path.get_attribute("d")) > 40 for path in shaded.all()), "each is drawn"
    assert walk.actions <= 10
    assert page.axe() == []


def test_three_rules_for_ties_stand_in_one_table(page):
    page.open(LARKMOOR, "model")
    page.locator("main[data-changing='false']").wait_for()
    walk = Walk(page)
    walk.click(page.button("Keep it under every tie rule"))
    heads = page.get_by_role("table", name="Kept models", exact=True).get_by_role("columnheader")
    for rule in ("Efron", "Breslow", "exact"):
        expect(heads.filter(has_text=rule)).to_have_count(1)
    assert walk.actions <= 6

"""Take the pictures of ``docs/screenshots`` from a running program that holds the demo studies.

    .venv/bin/python tools/take_pictures.py http://127.0.0.1:8000 [name ...]

Each picture is one function; what it states is put back.
"""

import sys
from pathlib import Path

import httpx
from playwright.sync_api import Page, sync_playwright

ROOT = Path(__file__).parents[1]
OUT = ROOT / "docs" / "screenshots"
GRAFTS = "Larkmoor corneal grafts"
RECEIVED = "Larkmoor corneal grafts, as received"


class Camera:
    """A page of the program, and what was stated for a picture."""

    def __init__(self, page: Page, address: str) -> None:
        self.page = page
        self.http = httpx.Client(base_url=f"{address}/api", timeout=60)
        self.address = address
        self.changed: list[tuple[str, object]] = []

    def open(self, study: str, stage: str) -> None:
        self.page.goto(f"{self.address}/studies/{self.id(study)}/{stage}")
        self.settle()

    def stated(self, study: str, stage: str, **fields: object) -> None:
        """Change a statement, until the picture is taken."""
        id = self.id(study)
        now = self.http.get(f"/studies/{id}/{stage}").json()["statement"]
        self.changed.append((id, now))
        self._put(id, {**now, **fields})

    def tracks(self, study: str, view: str, tracks: list[str]) -> None:
        """Say which tracks a view shows."""
        body = [{"id": track} for track in tracks]
        sent = self.http.put(
            f"/studies/{self.id(study)}/tracks/{view}", json=body, headers={"If-Match": "*"}
        )
        sent.raise_for_status()

    def _put(self, id: str, statement: object) -> None:
        sent = self.http.put(f"/studies/{id}/statement", json=statement, headers={"If-Match": "*"})
        sent.raise_for_status()

    def id(self, study: str) -> str:
        listed = self.http.get("/studies").json()["studies"]
        return str(next(one["id"] for one in listed if one["name"] == study))

    def settle(self) -> None:
        self.page.wait_for_load_state("networkidle")
        self.page.wait_for_timeout(700)

    def away(self) -> None:
        for study, statement in self.changed:
            self._put(study, statement)
        self.changed.clear()


def findings(camera: Camera) -> None:
    camera.open(RECEIVED, "prepare")


def prepare(camera: Camera) -> None:
    camera.open(GRAFTS, "prepare")


def estimate(camera: Camera) -> None:
    camera.open(GRAFTS, "estimate")


def compare(camera: Camera) -> None:
    camera.open(GRAFTS, "compare")


def groups(camera: Camera) -> None:
    camera.stated(GRAFTS, "estimate", by="vessels", crossed="drops", intervals="none")
    camera.tracks(GRAFTS, "estimate", ["survival", "at_risk", "events_so_far"])
    camera.open(GRAFTS, "estimate")
    camera.page.locator(".track-survival .end-label.choice").nth(2).click()


def panels(camera: Camera) -> None:
    camera.stated(GRAFTS, "estimate", by="vessels", limit=60)
    camera.tracks(GRAFTS, "estimate", ["apart", "at_risk", "hazard"])
    camera.open(GRAFTS, "estimate")


def competing(camera: Camera) -> None:
    camera.stated(GRAFTS, "estimate", by=None)
    camera.tracks(GRAFTS, "estimate", ["incidence", "incidence_stacked", "at_risk"])
    camera.open(GRAFTS, "estimate")


def table(camera: Camera) -> None:
    camera.tracks(GRAFTS, "estimate", ["survival", "at_risk"])
    camera.open(GRAFTS, "estimate")
    camera.page.get_by_role("table", name="Everyone").get_by_role("button").first.click()


def screening(camera: Camera) -> None:
    camera.stated(GRAFTS, "compare", each=True, by=None)
    camera.open(GRAFTS, "compare")


def threshold(camera: Camera) -> None:
    camera.stated(GRAFTS, "compare", each=False, by="donor_cells", thresholds=[2300])
    camera.open(GRAFTS, "compare")
    camera.page.locator("[data-slot='thresholds']").click()


def model(camera: Camera) -> None:
    camera.open(GRAFTS, "model")


def check(camera: Camera) -> None:
    camera.open(GRAFTS, "check")


def report(camera: Camera) -> None:
    camera.open(GRAFTS, "report")


def workings(camera: Camera) -> None:
    camera.open(GRAFTS, "compare")
    camera.page.get_by_role("table", name="Log-rank test").get_by_role("button").first.click()


def figure(camera: Camera) -> None:
    camera.open(GRAFTS, "compare")
    camera.page.get_by_role("button", name="Export figure").click()
    camera.page.wait_for_timeout(1500)


def describe(camera: Camera) -> None:
    camera.open(GRAFTS, "prepare")
    camera.page.get_by_role("button", name="Describe").click()
    camera.page.get_by_role("table", name="Baseline table").wait_for()


def dark(camera: Camera) -> None:
    camera.page.evaluate("localStorage.setItem('hourglass.theme', 'dark')")
    camera.open(GRAFTS, "compare")
    camera.page.evaluate("localStorage.removeItem('hourglass.theme')")


def narrow(camera: Camera) -> None:
    camera.page.set_viewport_size({"width": 1024, "height": 800})
    camera.open(GRAFTS, "compare")


PICTURES = (
    findings,
    prepare,
    estimate,
    compare,
    model,
    check,
    report,
    groups,
    panels,
    competing,
    table,
    screening,
    threshold,
    workings,
    figure,
    describe,
    dark,
    narrow,
)


def main(address: str, names: list[str]) -> None:
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(
            executable_path="/usr/bin/chromium", args=["--no-sandbox", "--disable-gpu"]
        )
        for picture in PICTURES:
            if names and picture.__name__ not in names:
                continue
            page = browser.new_page(viewport={"width": 1280, "height": 800})
            page.goto(address)
            camera = Camera(page, address)
            picture(camera)
            camera.settle()
            page.screenshot(path=OUT / f"{picture.__name__}.png")
            camera.away()
            page.close()
        browser.close()


if __name__ == "__main__":
    main(sys.argv[1], sys.argv[2:])

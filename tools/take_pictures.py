"""Take the pictures of ``docs/screenshots`` from a running program that holds the demo studies.

    .venv/bin/python tools/take_pictures.py "http://127.0.0.1:8000/?token=…" [name ...]

The address is the one that start prints.
Each picture is one function; what it states is put back.
"""

import sys
from pathlib import Path
from typing import Any

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
        self.address, _, token = address.partition("/?token=")
        self.http = httpx.Client(
            base_url=f"{self.address}/api", timeout=60, headers={"Authorization": f"Bearer {token}"}
        )
        self.changed: list[tuple[str, object]] = []
        self.begun_views: list[tuple[str, int]] = []

    def open(self, study: str, stage: str) -> None:
        self.page.goto(f"{self.address}/studies/{self.id(study)}/{stage}")
        self.settle()

    def stated(self, study: str, stage: str, **fields: object) -> None:
        """Change a statement, until the picture is taken."""
        id = self.id(study)
        now = self.http.get(f"/studies/{id}/{stage}").json()["statement"]
        self.changed.append((id, now))
        self._put(id, {**now, **fields})

    def _put(self, id: str, statement: object) -> None:
        self._sent("PUT", id, "statement", json=statement)

    def _sent(self, method: str, id: str, to: str, **more: Any) -> httpx.Response:
        tag = self.http.get(f"/studies/{id}").headers["ETag"]
        headers = {"If-Match": tag}
        sent = self.http.request(method, f"/studies/{id}/{to}", headers=headers, **more)
        sent.raise_for_status()
        return sent

    def begun(self, id: str, statement: object) -> int:
        """Begin a view that states something; gives its id."""
        body = {"stage": "estimate", "copy_of": None}
        made = self._sent("POST", id, "analyses", json=body).json()["id"]
        self._sent("PUT", id, "statement", json=statement, params={"analysis": made})
        return int(made)

    def letters(self, id: str, views: list[int]) -> list[str]:
        stages = self.http.get(f"/studies/{id}").json()["stages"]
        known = {one["id"]: one["letter"] for stage in stages for one in stage["analyses"]}
        return [known[one] for one in views]

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
        for study, view in self.begun_views:
            self._sent("DELETE", study, f"analyses/{view}")
        self.begun_views.clear()


def findings(camera: Camera) -> None:
    camera.open(RECEIVED, "prepare")


def prepare(camera: Camera) -> None:
    camera.open(GRAFTS, "prepare")


def estimate(camera: Camera) -> None:
    camera.open(GRAFTS, "estimate")


def compare(camera: Camera) -> None:
    camera.open(GRAFTS, "compare")


def model(camera: Camera) -> None:
    camera.open(GRAFTS, "model")


def check(camera: Camera) -> None:
    camera.open(GRAFTS, "check")


def report(camera: Camera) -> None:
    camera.open(GRAFTS, "report")


DROPS = {"kind": "category", "column": "drops"}
VESSELS = {"kind": "category", "column": "vessels"}
AGE = {"kind": "number", "column": "age", "unit": 10}
CELLS = {"kind": "spline", "column": "donor_cells", "knots": 4}


def spline(camera: Camera) -> None:
    camera.stated(GRAFTS, "model", terms=[DROPS, CELLS])
    camera.open(GRAFTS, "model")
    camera.page.locator("[data-slot='term-1']").click()


def beside(camera: Camera) -> None:
    changing = {**VESSELS, "changing": {"kind": "periods", "ends": [12]}}
    kept = [
        {
            "letter": "A",
            "model": {"terms": [DROPS, VESSELS]},
            "planned": True,
            "note": "as planned",
        },
        {"letter": "B", "model": {"terms": [DROPS]}, "dropped": True, "note": "vessels matter"},
        {"letter": "C", "model": {"terms": [DROPS, changing]}},
    ]
    camera.stated(GRAFTS, "model", terms=[DROPS, changing], kept=kept, beside="A")
    camera.open(GRAFTS, "model")


def subgroups(camera: Camera) -> None:
    camera.stated(GRAFTS, "model", terms=[DROPS, VESSELS], subgroups=["vessels", "eye", "age"])
    camera.open(GRAFTS, "model")


def predictions(camera: Camera) -> None:
    people = [
        [{"column": "drops", "value": drops}, {"column": "vessels", "value": vessels}]
        for drops, vessels in (("extended", "none"), ("standard", "3-4 quadrants"))
    ]
    camera.stated(
        GRAFTS, "model", terms=[DROPS, VESSELS, AGE], profiles=[{"values": p} for p in people]
    )
    camera.open(GRAFTS, "model")
    camera.page.locator(".track-predicted").scroll_into_view_if_needed()


def scale(camera: Camera) -> None:
    camera.stated(GRAFTS, "check", question="functional form", variable="age")
    camera.open(GRAFTS, "check")


def influence(camera: Camera) -> None:
    camera.stated(GRAFTS, "check", question="influence")
    camera.open(GRAFTS, "check")


def screening(camera: Camera) -> None:
    variables = [{"column": "vessels"}, {"column": "drops"}, {"column": "prior_graft"},
                 {"column": "age", "split": "median"}, {"column": "donor_cells", "threshold": 2300},
                 {"column": "diabetes"}]  # fmt: skip
    camera.stated(GRAFTS, "compare", each=True, by=None, variables=variables, within=["centre"])
    camera.open(GRAFTS, "compare")


def views(camera: Camera) -> None:
    """Two views beside each other; they are deleted once the picture is taken."""
    id = camera.id(GRAFTS)
    statement = camera.http.get(f"/studies/{id}/estimate").json()["statement"]
    made = [camera.begun(id, {**statement, "by": by}) for by in ("vessels", "drops")]
    camera.open(GRAFTS, "estimate")
    for letter in camera.letters(id, made):
        camera.page.goto(f"{camera.page.url.split('?')[0]}?view={letter}")
        camera.settle()
    first, second = camera.letters(id, made)
    camera.page.goto(f"{camera.page.url.split('?')[0]}?view={second}&beside={first},{second}")
    camera.settle()
    camera.begun_views = [(id, one) for one in made]


def workings(camera: Camera) -> None:
    camera.open(GRAFTS, "model")
    camera.page.locator(".category-figure .worked").first.click()
    camera.page.get_by_role("button", name="ln L by row").click()
    camera.page.get_by_label("Coefficients of").wait_for()


def plan(camera: Camera) -> None:
    camera.open(RECEIVED, "report")
    saved = camera.http.get(f"/studies/{camera.id(GRAFTS)}/plan.json").content
    camera.page.get_by_role("button", name=f"More for the study: {RECEIVED}").click()
    camera.page.get_by_role("menuitem", name="Apply a plan").click()
    payload = {"name": "plan.json", "mimeType": "application/json", "buffer": saved}
    camera.page.get_by_label("File of the plan").set_input_files(payload)
    camera.page.get_by_text("All of it fits the file.").wait_for()


def dark(camera: Camera) -> None:
    camera.page.evaluate("localStorage.setItem('hourglass.theme', 'dark')")
    camera.open(GRAFTS, "check")
    camera.page.evaluate("localStorage.removeItem('hourglass.theme')")


def narrow(camera: Camera) -> None:
    camera.page.set_viewport_size({"width": 1024, "height": 800})
    camera.open(GRAFTS, "model")


# those of another model last: the model that is put back is out of date until it is opened
PICTURES = (
    findings,
    prepare,
    estimate,
    compare,
    model,
    check,
    report,
    scale,
    influence,
    screening,
    views,
    workings,
    plan,
    dark,
    narrow,
    spline,
    beside,
    subgroups,
    predictions,
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

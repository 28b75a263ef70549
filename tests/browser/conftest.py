"""The built client in Debian's Chromium, served by the real application over a real database."""

import os
import shutil
import socket
import threading
import time
from contextlib import contextmanager, nullcontext
from pathlib import Path

import httpx
import psycopg
import pytest
import uvicorn
from playwright.sync_api import expect, sync_playwright
from psycopg.rows import dict_row

from databases import new_database
from hourglass.analysis.registry import STAGES
from hourglass.api.app import create_app
from hourglass.api.settings import Settings
from hourglass.report.pieces.registry import PIECES
from hourglass.store.blobs import Blobs
from hourglass.store.postgres import Postgres
from hourglass.study.demos import load_missing_demos
from stages import computing

AXE = Path(__file__).parents[2] / "web" / "node_modules" / "axe-core" / "axe.min.js"
WCAG = ("wcag2a", "wcag2aa", "wcag21aa", "wcag22aa")
QUIET = ["--no-sandbox", "--disable-gpu", "--disable-background-networking", "--disable-sync"]


# As patient as everything else here: a machine that decides may be three times slower.
expect.set_options(timeout=30_000)


class Address(str):
    """Where the application answers, and the application."""

    def __new__(cls, text, app):
        made = super().__new__(cls, text)
        made.app = app
        return made


@pytest.fixture
def runs(address, monkeypatch):
    """Have the numbers of a stage computed otherwise: ``runs(name, compute)``."""

    def otherwise(name, compute):
        results = address.app.state.hourglass.results
        monkeypatch.setattr(results, "stages", computing(results.stages, name, compute))

    return otherwise


@pytest.fixture(scope="session")
def furnished(tmp_path_factory):
    """The name of a database with the demo studies, to be copied, and the folder of their files."""
    files = tmp_path_factory.mktemp("furnished") / "files"
    with new_database() as (name, address):
        with psycopg.connect(address, autocommit=True, row_factory=dict_row) as db:
            load_missing_demos(Postgres(lambda: nullcontext(db)), Blobs(files))
        yield name, files


@pytest.fixture(scope="module")
def database(furnished):
    """The address of a database of its own with the demo studies."""
    with new_database(like=furnished[0]) as (_, address):
        yield address


@pytest.fixture(scope="module")
def serving(database, furnished, tmp_path_factory):
    """Serve the application with some stages and pieces, the demo studies loaded."""

    @contextmanager
    def serve(stages=STAGES, pieces=PIECES):
        var = tmp_path_factory.mktemp("var")
        shutil.copytree(furnished[1], var / "files")
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            port = probe.getsockname()[1]
        settings = Settings(database_url=database, var=var, port=port, processes=0)
        app = create_app(settings, stages, pieces)
        server = uvicorn.Server(uvicorn.Config(app, port=port, log_level="error"))
        thread = threading.Thread(target=server.run, daemon=True)
        thread.start()
        while not server.started:
            time.sleep(0.05)
        yield Address(f"http://127.0.0.1:{port}", app)
        server.should_exit = True
        thread.join(10)

    return serve


@pytest.fixture(scope="module")
def address(serving):
    """Where the application answers, with the demo studies loaded."""
    with serving() as made:
        yield made


@pytest.fixture(scope="module")
def browser():
    path = os.environ.get("HOURGLASS_TEST_BROWSER", "/usr/bin/chromium")
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=path, args=QUIET)
        yield browser
        browser.close()


SETTLED = """patience => new Promise(done => {
    const begun = performance.now();
    let since = begun;
    const look = () => {
        const now = performance.now();
        const opening = !document.querySelector('main') || document.querySelector('p.notice.quiet');
        if (opening || document.querySelector('[data-changing="true"]')) since = now;
        if (now - since > 250 || now - begun > patience) done();
        else requestAnimationFrame(look);
    };
    look();
})"""

STILL = """async () => {
    const size = () => [...document.querySelectorAll('main, main svg')].map(e => {
        const box = e.getBoundingClientRect(); return `${box.width} ${box.height}`; }).join();
    for (let frame = 0, still = 0, last = ''; frame < 240; frame++) {
        await new Promise(requestAnimationFrame);
        const now = size();
        still = now === last ? still + 1 : 0;
        last = now;
        if (still === 12) return document.querySelector('main').getBoundingClientRect().height;
    }
    return null;
}"""


CELLS = "rows => rows.map(r => [...r.querySelectorAll('th, td')].map(cell => cell.innerText))"


class Page:
    """A page of the program, with the words that the tests use."""

    def __init__(self, page, address):
        self.page = page
        self.address = address
        self.errors = []
        page.set_default_timeout(30_000)
        page.on("console", lambda m: m.type == "error" and self.errors.append(m.text))
        page.on("pageerror", lambda error: self.errors.append(str(error)))

    def __getattr__(self, name):
        return getattr(self.page, name)

    def study(self, name):
        """The id of the study of that name."""
        found = httpx.get(f"{self.address}/api/studies", timeout=60).json()["studies"]
        return next(s["id"] for s in found if s["name"] == name)

    def open(self, name, stage):
        self.page.goto(f"{self.address}/studies/{self.study(name)}/{stage}")
        self.page.get_by_role("heading", name=stage.capitalize(), level=1).wait_for(
            state="attached"
        )

    def stage(self, name):
        """Go to a stage by the stage list."""
        self.page.get_by_role("navigation", name="Stages").get_by_text(name, exact=True).click()
        self.page.get_by_role("heading", name=name.capitalize(), level=1).wait_for(state="attached")

    def stage_line(self, name):
        """A stage's live line on the stage list."""
        return self.page.locator(".stage-nav-stage", has_text=name)

    def button(self, name, **more):
        return self.page.get_by_role("button", name=name, **more)

    def slot(self, name):
        return self.page.locator(f"[data-slot='{name}']")

    def table(self, name):
        """The cells of a readings table, row by row."""
        rows = self.page.get_by_role("table", name=name, exact=True).locator("tbody tr")
        rows.first.wait_for()
        return rows.evaluate_all(CELLS)

    def still(self):
        """The height of the page once nothing has changed its size for twelve frames; None if never."""
        return self.page.evaluate(STILL)

    def axe(self, *more):
        """What the accessibility checker finds wrong, once the page is there and nothing is dimmed.

        ``more`` are sets of its rules besides those of WCAG 2.2 AA.
        """
        self.page.evaluate(SETTLED, 30_000)
        self.page.add_script_tag(path=AXE)
        found = self.page.evaluate("tags => axe.run(document, {runOnly: tags})", [*WCAG, *more])
        return [
            (v["id"], [n["target"] for n in v["nodes"]], v["nodes"][0]["failureSummary"])
            for v in found["violations"]
        ]


@pytest.fixture
def page(browser, address):
    context = browser.new_context(viewport={"width": 1280, "height": 800}, bypass_csp=True)
    context.set_default_timeout(30_000)
    opened = Page(context.new_page(), address)
    yield opened
    context.close()
    assert opened.errors == []

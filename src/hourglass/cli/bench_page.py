"""Measuring the page in Chromium: whether the cursor keeps up with the pointer."""

import shutil
import tempfile
import threading
import time
from contextlib import nullcontext
from pathlib import Path

import httpx
import psycopg
import uvicorn
from playwright.sync_api import Page, sync_playwright
from psycopg.rows import dict_row

from hourglass.api.app import create_app
from hourglass.api.settings import Settings
from hourglass.cli.cluster import Cluster
from hourglass.cli.logs import write_logs
from hourglass.cli.machine import build_web, chromium, postgres_binaries
from hourglass.store.blobs import Blobs
from hourglass.store.migrate import migrate
from hourglass.store.postgres import Postgres
from hourglass.study.demos import load_demo

PORT = 8899
FRAME_MS = 1000 / 60
QUIET = ["--no-sandbox", "--disable-gpu", "--disable-background-networking", "--disable-sync"]
DRAG = """async ({x, y, width}) => {
    const field = document.querySelector('.sand-field');
    const send = (type, at) => field.dispatchEvent(new PointerEvent(type,
        {clientX: at, clientY: y, bubbles: true, pointerId: 1}));
    field.setPointerCapture = () => {};
    send('pointerdown', x);
    const times = [];
    for (let k = 0; k < 60; k++) {
        await new Promise(requestAnimationFrame);
        const begun = performance.now();
        send('pointermove', x + width * k / 60);
        document.body.offsetHeight;
        times.push(performance.now() - begun);
    }
    return times.sort((a, b) => a - b)[Math.floor(times.length / 2)];
}"""


def run_page_bench() -> None:
    """Print how much of a frame a move of the sand line takes, on the largest demo figure."""
    browser = chromium()
    build_web()
    folder = Path(tempfile.mkdtemp(prefix="hourglass-bench-"))
    folder.chmod(0o755)
    write_logs(folder / "log")
    cluster = Cluster(folder / "postgres", postgres_binaries(), durable=False)
    try:
        milliseconds = _measured(cluster.start(), folder, browser)
    finally:
        cluster.stop()
        shutil.rmtree(folder, ignore_errors=True)
    share = milliseconds / FRAME_MS
    print(
        f"{'a move of the sand line':<46}{milliseconds / 1000:>10.4f}  {share:8.2f} × one frame of 60"
    )


def _measured(database: str, folder: Path, browser: str) -> float:
    with psycopg.connect(database, autocommit=True, row_factory=dict_row) as db:
        migrate(db)
        keeping = Postgres(lambda: nullcontext(db))
        study, _ = load_demo(keeping, Blobs(folder / "files"), "larkmoor")
    app = create_app(Settings(database_url=database, var=folder, port=PORT, processes=0))
    server = uvicorn.Server(uvicorn.Config(app, port=PORT, log_level="error"))
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    while not server.started:
        time.sleep(0.05)
    try:
        address = f"http://127.0.0.1:{PORT}"
        httpx.get(f"{address}/api/studies/{study}/compare", timeout=60)
        with sync_playwright() as playwright:
            opened = playwright.chromium.launch(executable_path=browser, args=QUIET)
            page = opened.new_page(viewport={"width": 1280, "height": 800})
            page.goto(f"{address}/studies/{study}/compare")
            taken = _drag(page)
            opened.close()
            return taken
    finally:
        server.should_exit = True
        thread.join(10)


def _drag(page: Page) -> float:
    page.get_by_role("slider", name="Sand line").wait_for()
    box = page.locator(".sand-field").bounding_box()
    assert box is not None
    found: float = page.evaluate(DRAG, {"x": box["x"], "y": box["y"] + 50, "width": box["width"]})
    return found

"""Measuring the page in Chromium: whether the cursor keeps up with the pointer, and what replies weigh."""

import gzip
import shutil
import tempfile
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager, nullcontext
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import httpx
import numpy as np
import psycopg
import uvicorn
from playwright.sync_api import sync_playwright
from psycopg.rows import dict_row

from hourglass.api.app import create_app
from hourglass.api.settings import Settings
from hourglass.cli.cluster import Cluster
from hourglass.cli.logs import write_logs
from hourglass.cli.machine import build_web, chromium, postgres_binaries
from hourglass.cli.revisions import WHICHEVER, name_revisions
from hourglass.store.blobs import Blobs
from hourglass.store.migrate import opened
from hourglass.store.postgres import Postgres
from hourglass.study.demos import load_demo

PORT = 8899
FRAME_MS = 1000 / 60
GROUPS = ("north", "east", "south", "west")
QUIET = ["--no-sandbox", "--disable-gpu", "--disable-background-networking", "--disable-sync"]
DRAG = """async ({x, y, width, frames}) => {
    const field = document.querySelector('.sand-field');
    const send = (type, at) => field.dispatchEvent(new PointerEvent(type,
        {clientX: at, clientY: y, bubbles: true, pointerId: 1, button: 0}));
    field.setPointerCapture = () => {};
    const tasks = [];
    const watch = new PerformanceObserver(list => tasks.push(...list.getEntries().map(e => e.duration)));
    watch.observe({type: 'longtask'});
    send('pointerdown', x);
    const moves = [], frame = [];
    let last = null;
    for (let k = 0; k < frames; k++) {
        const now = await new Promise(requestAnimationFrame);
        if (last !== null) frame.push(now - last);
        last = now;
        const begun = performance.now();
        send('pointermove', x + width * (0.5 + 0.5 * Math.sin(k / 25)));
        document.body.offsetHeight;
        moves.push(performance.now() - begun);
    }
    send('pointerup', x);
    await new Promise(done => setTimeout(done, 300));
    watch.disconnect();
    return {moves, frame, tasks};
}"""


@dataclass(frozen=True, slots=True)
class Drag:
    """Milliseconds while the sand line was dragged: of each move, of each frame, of tasks over 50."""

    moves: list[float]
    frames: list[float]
    tasks: list[float]


def run_page_bench() -> None:
    """Print how much of a frame a move of the sand line takes, on the largest demo figure."""
    with program() as (database, address, folder):
        study = demo_study(database, folder)
        httpx.get(f"{address}/api/studies/{study}/compare", timeout=60)
        taken = _dragged(f"{address}/studies/{study}/compare", 60)
    milliseconds = float(np.median(taken.moves))
    share = milliseconds / FRAME_MS
    print(
        f"{'a move of the sand line':<46}{milliseconds / 1000:>10.4f}  {share:8.2f} × one frame of 60"
    )


def run_large_page_bench(rows: int) -> None:
    """Print frames, long tasks, replies and files of a comparison of four groups of so many times each."""
    with program() as (_, address, _):
        client = client_of(address)
        study = large_study(client, rows)
        print(f"4 groups, {rows:,} distinct times each")
        found = _result(client, study)
        _weigh("the result of Compare", client, f"/api/studies/{study}/compare")
        drawing = f"/api/studies/{study}/drawings/{found['drawing']}"
        end = found["figure"]["high"]
        tracks = [track["id"] for track in found["figure"]["tracks"]]
        window = {"low": end / 3, "high": end / 2, "columns": 900, "tracks": tracks}
        _weigh("a window of all its tracks", client, f"{drawing}/figure", window)
        _weigh("a page of exact values", client, f"{drawing}/series/0/0")
        for form in ("svg", "pdf", "png"):
            body = {"form": form, "figures": [{"drawing": found["drawing"], "settings": {}}]}
            begun = time.perf_counter()
            size = len(client.post(f"/api/studies/{study}/figures", json=body).content)
            seconds = time.perf_counter() - begun
            print(f"{f'printing it as {form.upper()}':<46}{seconds:>10.3f} s  {size:,} bytes")
        taken = _dragged(f"{address}/studies/{study}/compare", 600)
    for name, values in (("a frame while dragging", taken.frames), ("a move", taken.moves)):
        median, late, worst = np.percentile(values, [50, 95, 100])
        print(f"{name:<46}{median:>10.1f} ms  95%: {late:.1f} ms, worst {worst:.1f} ms")
    longest = max(taken.tasks, default=0.0)
    print(
        f"{'tasks over 50 ms while dragging':<46}{len(taken.tasks):>10}     longest {longest:.0f} ms"
    )


@contextmanager
def program(processes: int = 0) -> Iterator[tuple[str, str, Path]]:
    """The program over a database of its own: the database, the address, the folder.

    Args:
        processes: how many compute; none for all in this one.
    """
    build_web()
    folder = Path(tempfile.mkdtemp(prefix="hourglass-bench-"))
    folder.chmod(0o755)
    write_logs(folder / "log")
    cluster = Cluster(folder / "postgres", postgres_binaries(), durable=False)
    try:
        database = cluster.start()
        with opened(database):
            pass
        app = create_app(
            Settings(database_url=database, var=folder, port=PORT, processes=processes)
        )
        server = uvicorn.Server(uvicorn.Config(app, port=PORT, log_level="error"))
        thread = threading.Thread(target=server.run, daemon=True)
        thread.start()
        while not server.started:
            time.sleep(0.05)
        yield database, f"http://127.0.0.1:{PORT}", folder
        server.should_exit = True
        thread.join(10)
    finally:
        cluster.stop()
        shutil.rmtree(folder, ignore_errors=True)


def client_of(address: str) -> httpx.Client:
    """Asks the program, whatever the revision of a study is."""
    client = httpx.Client(base_url=address, timeout=600, headers=WHICHEVER)
    name_revisions(client)
    return client


def demo_study(database: str, folder: Path) -> str:
    """The demo study of grafts."""
    with psycopg.connect(database, autocommit=True, row_factory=dict_row) as db:
        study, _ = load_demo(Postgres(lambda: nullcontext(db)), Blobs(folder / "files"), "larkmoor")
    return str(study)


def large_study(client: httpx.Client, rows: int) -> str:
    """A study of four groups, each with so many distinct event times, compared."""
    rng = np.random.default_rng(7)
    n = rows * len(GROUPS)
    time_of = rng.permutation(np.arange(1, n + 1)) / 1000
    lines = [f"{t},1,{GROUPS[k % len(GROUPS)]}" for k, t in enumerate(time_of.tolist())]
    text = "\n".join(["months,outcome,arm", *lines])
    study = str(client.post("/api/studies", json={"name": "Large"}).json()["id"])
    place = f"/api/studies/{study}"
    client.put(f"{place}/file", params={"name": "large.csv"}, content=text.encode())
    reply = client.get(f"{place}/prepare").json()
    given = {
        **reply["follow_up"],
        "clock": {"kind": "duration", "column": "months"},
        "outcome": "outcome",
        "unit": "months",
        "meanings": {"1": {"meaning": "event"}},
    }
    client.put(f"{place}/follow-up", json=given).raise_for_status()
    statement = {"stage": "compare", "version": 5, "by": "arm"}
    client.put(f"{place}/statement", json=statement).raise_for_status()
    return study


def _result(client: httpx.Client, study: str) -> dict[str, Any]:
    while True:
        reply = client.get(f"/api/studies/{study}/compare").json()
        if reply["result"] is not None:
            return dict(reply["result"])
        time.sleep(0.1)


def _weigh(name: str, client: httpx.Client, path: str, params: Any = None) -> None:
    begun = time.perf_counter()
    body = client.get(path, params=params).content
    seconds = time.perf_counter() - begun
    print(f"{name:<46}{seconds:>10.3f} s  {len(gzip.compress(body, 4)):,} bytes compressed")


def _dragged(address: str, frames: int) -> Drag:
    """Drag the sand line over the figure, once its pages have arrived."""
    with sync_playwright() as playwright:
        opened = playwright.chromium.launch(executable_path=chromium(), args=QUIET)
        page = opened.new_page(viewport={"width": 1280, "height": 800})
        page.goto(address)
        page.get_by_role("slider", name="Sand line").wait_for()
        page.wait_for_load_state("networkidle")
        box = page.locator(".sand-field").bounding_box()
        assert box is not None
        where = {"x": box["x"], "y": box["y"] + 50, "width": box["width"], "frames": frames}
        found = page.evaluate(DRAG, where)
        opened.close()
        return Drag(found["moves"], found["frame"], found["tasks"])

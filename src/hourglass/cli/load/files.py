"""Files made to break whoever reads them, sent to a program that others use meanwhile."""

import threading
import time
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path

import httpx

from hourglass.cli.load.callers import FAULT, changed
from hourglass.cli.load.program import Program, children, held

LOOK_EVERY = 0.05


@dataclass(frozen=True, slots=True, kw_only=True)
class Sent:
    """How a file fared: how it was answered, the seconds it took, and others' longest wait meanwhile.

    ``reader`` is the most that any process but the server held, ``server`` what the server gained, in bytes.
    """

    name: str
    status: int
    seconds: float
    longest_ping: float
    reader: int
    server: int


class _Meanwhile:
    """Calls the program again and again, and looks at the memory of its processes."""

    def __init__(self, program: Program) -> None:
        self.longest_ping, self.reader, self.server = 0.0, 0, 0
        self._program, self._ended = program, threading.Event()
        self._threads = [threading.Thread(target=run) for run in (self._ping, self._look)]

    def __enter__(self) -> "_Meanwhile":
        for thread in self._threads:
            thread.start()
        return self

    def __exit__(self, *_: object) -> None:
        self._ended.set()
        for thread in self._threads:
            thread.join()

    def _ping(self) -> None:
        with self._program.client() as client:
            while not self._ended.wait(LOOK_EVERY):
                begun = time.monotonic()
                client.get("/health")
                self.longest_ping = max(self.longest_ping, time.monotonic() - begun)

    def _look(self) -> None:
        while not self._ended.wait(LOOK_EVERY):
            own = [held(process) for process in children(self._program.process)]
            self.reader = max([self.reader, *own])
            self.server = max(self.server, held(self._program.process))


def send_files(program: Program, client: httpx.Client, folder: Path) -> list[Sent]:
    """Send each file of a folder as the file of a study, one after another."""
    found = []
    for path in sorted(folder.iterdir()):
        study = client.post("/studies", json={"name": path.name[:100]}).json()["id"]
        before, begun = held(program.process), time.monotonic()
        with _Meanwhile(program) as meanwhile:
            status = FAULT
            with suppress(httpx.HTTPError):
                content = path.read_bytes()
                reply = changed(client, "PUT", study, "/file?name=rows.csv", content=content)
                status = reply.status_code
        found.append(
            Sent(
                name=path.name,
                status=status,
                seconds=time.monotonic() - begun,
                longest_ping=meanwhile.longest_ping,
                reader=meanwhile.reader,
                server=meanwhile.server - before,
            )
        )
    return found

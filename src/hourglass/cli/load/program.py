"""A whole program in a folder of its own, to be loaded with all it must bear."""

import os
import signal
import subprocess
import sys
import threading
from collections import deque
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import IO

import httpx

from hourglass.cli.machine import ROOT

MIB = 2**20


@dataclass(frozen=True, slots=True)
class Program:
    """A program that runs: where it answers, its token, and its process."""

    address: str
    token: str
    process: int

    def client(self, seconds: float = 120) -> httpx.Client:
        """Calls it, as somebody who was let in."""
        headers = {"Authorization": f"Bearer {self.token}"}
        return httpx.Client(base_url=f"{self.address}/api", headers=headers, timeout=seconds)

    def memory(self) -> int:
        """Bytes of memory that the server and all its processes hold."""
        return sum(held(process) for process in (self.process, *children(self.process)))


@contextmanager
def folder_of_its_own() -> Iterator[Path]:
    """A folder for the files and the database of a program, gone afterwards."""
    with TemporaryDirectory(prefix="hourglass-load-", dir="/var/tmp") as folder:
        Path(folder).chmod(0o711)
        yield Path(folder) / "var"


@contextmanager
def running_program(var: Path) -> Iterator[Program]:
    """Start a program with its files and its database in a folder, and end it afterwards."""
    own = {"HOURGLASS_VAR": str(var), "PORT": "0", "PYTHONPATH": str(ROOT / "src")}
    environment = {k: v for k, v in os.environ.items() if k != "DATABASE_URL"} | own
    process = subprocess.Popen(
        [sys.executable, "-m", "hourglass.cli", "start"],
        env=environment,
        stdout=subprocess.PIPE,
        stderr=subprocess.STDOUT,
        text=True,
    )
    try:
        assert process.stdout is not None
        yield _ready(process.pid, process.stdout)
    finally:
        process.send_signal(signal.SIGTERM)
        with suppress(subprocess.TimeoutExpired):
            process.wait(30)
        process.kill()


def _ready(process: int, output: IO[str]) -> Program:
    """The program once it has printed where it answers; what it prints afterwards is read and let go."""
    printed = []
    for line in output:
        printed.append(line)
        if "is ready at" in line:
            address, _, token = line.split()[5].partition("/?token=")
            threading.Thread(target=lambda: deque(output, maxlen=0), daemon=True).start()
            return Program(address, token, process)
    raise RuntimeError("the program did not start: " + "".join(printed[-20:]))


def held(process: int) -> int:
    """Bytes of memory that a process holds; 0 where it is gone."""
    with suppress(OSError, ValueError):
        pages = int(Path(f"/proc/{process}/statm").read_text(encoding="ascii").split()[1])
        return pages * os.sysconf("SC_PAGESIZE")
    return 0


def children(process: int) -> list[int]:
    """All processes that a process has started, and those that these have."""
    parents = {}
    for stat in Path("/proc").glob("[0-9]*/stat"):
        with suppress(OSError, ValueError, IndexError):
            fields = stat.read_text(encoding="utf-8", errors="replace").rpartition(")")[2].split()
            parents[int(stat.parent.name)] = int(fields[1])
    found, new = list[int](), [process]
    while new:
        new = [child for child, parent in parents.items() if parent in new]
        found += new
    return found

"""A program that is killed, again and again, while people write: what was acknowledged must be there."""

import os
import random
import signal
import threading
import time
from contextlib import suppress
from dataclasses import dataclass, field
from pathlib import Path

import httpx

from hourglass.cli.load.callers import changed
from hourglass.cli.load.program import Program, children, folder_of_its_own, running_program

ROWS = "t,s\n" + "".join(f"{k},{k % 2}\n" for k in range(1, 101))
MAX_SECONDS = 1.5
"""Seconds after which a process is killed, at most."""


@dataclass(slots=True)
class Acknowledged:
    """What was acknowledged so far: the number that a study is named by, and studies with their file.

    ``lost`` counts how often the study had a lower number afterwards.
    """

    number: int = 0
    lost: int = 0
    files: list[str] = field(default_factory=list)


def killed_again_and_again(times: int, seed: int) -> tuple[int, int, int]:
    """Kill any process of a program so many times while it is written to.

    Returns:
        how many kills there were, how many writes were acknowledged, and how many of these were lost.
    """
    chance, known, kills = random.Random(seed), Acknowledged(), 0  # noqa: S311 (nothing secret)
    with folder_of_its_own() as var:
        with running_program(var) as program, program.client() as client:
            study = client.post("/studies", json={"name": "0"}).json()["id"]
        while kills < times:
            with running_program(var) as program:
                kills += _killed(program, var, study, known, chance, times - kills)
        with running_program(var) as program, program.client() as client:
            _number(client.get(f"/studies/{study}"), known)
            gone = sum(_rows(client, one) != 100 for one in known.files)
    return kills, known.number + len(known.files), known.lost + gone


def _killed(
    program: Program, var: Path, study: str, known: Acknowledged, chance: random.Random, most: int
) -> int:
    """Kill processes until the server is among them; how many it were."""
    ended = threading.Event()
    writing = threading.Thread(target=_write, args=(program, study, known, ended))
    writing.start()
    kills = 0
    while kills < most:
        time.sleep(MAX_SECONDS * chance.random())
        database = int(
            (var / "postgres/data/postmaster.pid").read_text(encoding="ascii").split()[0]
        )
        there = [program.process, *children(program.process), database, *children(database)]
        victim = chance.choice(there)
        with suppress(ProcessLookupError):
            os.kill(victim, signal.SIGKILL)
            kills += 1
        if victim == program.process:
            break
    ended.set()
    writing.join()
    return kills


def _write(program: Program, study: str, known: Acknowledged, ended: threading.Event) -> None:
    """Count a study's name up and upload files until it is enough; what fails was not acknowledged."""
    with program.client(5) as client:
        while not ended.is_set():
            with suppress(httpx.HTTPError, KeyError, ValueError):
                seen = client.get(f"/studies/{study}")
                number = _number(seen, known) + 1
                header = {"If-Match": seen.headers["etag"]}
                body = {"name": str(number)}
                if client.patch(f"/studies/{study}", json=body, headers=header).is_success:
                    known.number = number
                made = client.post("/studies", json={"name": f"file after {number}"}).json()["id"]
                if changed(
                    client, "PUT", made, "/file?name=r.csv", content=ROWS.encode()
                ).is_success:
                    known.files.append(made)


def _number(seen: httpx.Response, known: Acknowledged) -> int:
    """The number that the study is named by; a lower one than was acknowledged is a loss."""
    number = int(seen.json()["name"])
    known.lost += number < known.number
    return number


def _rows(client: httpx.Client, study: str) -> int:
    total: int = client.get(f"/studies/{study}/rows").json().get("total", -1)
    return total

"""What a running program bears: writers at once, requests nobody would send, much work, many callers."""

from collections.abc import Callable
from pathlib import Path

import httpx
import numpy as np

from hourglass.cli.load.callers import FAULT, Waited, answered_by_faults, lost_changes, waits
from hourglass.cli.load.files import send_files
from hourglass.cli.load.kills import killed_again_and_again
from hourglass.cli.load.program import MIB, Program, folder_of_its_own, running_program
from hourglass.cli.load.stolen_time import CalmSeconds
from hourglass.cli.load.worked import memory_of_slots, memory_of_workings

MemoryOf = Callable[[Program, httpx.Client, int, int], list[int]]
WRITERS = 4
DEMOS = ("lamps", "larkmoor", "larkmoor_as_received")


def run_load_bench(share: float, files: Path | None = None) -> None:
    """Load a program of its own and print what it bore.

    Args:
        share: of the whole load: 1 takes about an hour.
        files: a folder of files made to break it, each sent once.
    """
    with folder_of_its_own() as var, running_program(var) as program:
        _callers(program, 600 * share)
        _writers(program, round(500 * share))
        _faults(program, round(10_000 * share))
        if files is not None:
            _files(program, files)
        _memory(program, "workings", memory_of_workings, round(205 * share))
        _memory(program, "changes of a slot", memory_of_slots, round(500 * share))
    kills, made, lost = killed_again_and_again(max(round(200 * share), 1), seed=24)
    print(f"{kills} kills of any process: {made} writes acknowledged, {lost} lost")


def _writers(program: Program, times: int) -> None:
    made, lost = lost_changes(program.client, WRITERS, times)
    print(f"{WRITERS} writers, {times} times each: {made} changes acknowledged, {lost} lost")


def _faults(program: Program, times: int) -> None:
    with program.client() as client:
        for seed, demo in enumerate(DEMOS):
            found = answered_by_faults(client, demo, times, seed)
            faults = sum(n for status, n in found.items() if status >= 500)
            print(
                f"{times} made-up requests about {demo}: {faults} answered by a fault; {dict(found)}"
            )


def _memory(program: Program, what: str, work: MemoryOf, times: int) -> None:
    with program.client(600) as client:
        held = work(program, client, 400_000, times)
    places = range(0, len(held), max(len(held) // 10, 1))
    shown = ", ".join(f"{held[k] // MIB} MB after {k + 1}" for k in places)
    print(f"{what} of 400,000 rows: {shown}; {held[-1] // MIB} MB at the end", flush=True)


def _files(program: Program, folder: Path) -> None:
    with program.client(600) as client:
        sent = send_files(program, client, folder)
    faults = [one.name for one in sent if one.status >= FAULT]
    print(f"{len(sent)} files made to break the program: answered by a fault {faults or 'none'}")
    for what, field, unit in (
        ("the longest took, in seconds,", "seconds", 1),
        ("others waited at most, in seconds,", "longest_ping", 1),
        ("a process held at most, in MB,", "reader", MIB),
        ("the server gained at most, in MB,", "server", MIB),
    ):
        most, name = max((getattr(one, field) / unit, one.name) for one in sent)
        print(f"  {what} {most:.1f} ({name})", flush=True)


def _callers(program: Program, seconds: float) -> None:
    with CalmSeconds() as calm:
        found = waits(program.client, 50, seconds)
    refused = sum(one.status >= 400 for one in found)
    print(f"50 callers for {seconds:.0f} s: {len(found)} requests, {refused} refused")
    print(
        f"{100 * calm.share:.0f} % of the seconds the machine had to itself; in them, and in all:"
    )
    for kind in dict.fromkeys(one.kind for one in found):
        every = [one for one in found if one.kind == kind]
        own = [one for one in every if calm.during(one.begun, one.seconds)]
        print(f"  {kind}: {_quantiles(own)}; {_quantiles(every)}", flush=True)


def _quantiles(found: list[Waited]) -> str:
    if not found:
        return "none"
    half, most = np.quantile([1000 * one.seconds for one in found], [0.5, 0.99])
    return f"{half:.0f} ms half of the time and {most:.0f} ms 99 times of 100, of {len(found)}"

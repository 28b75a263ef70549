"""What a running program bears: writers at once, requests nobody would send, much work, many callers."""

from collections import defaultdict

import numpy as np

from hourglass.cli.load.callers import answered_by_faults, lost_changes, waits
from hourglass.cli.load.program import MIB, Program, running_program
from hourglass.cli.load.worked import memory_of_workings

WRITERS = 4
DEMOS = ("lamps", "larkmoor", "larkmoor_as_received")


def run_load_bench(share: float) -> None:
    """Load a program of its own and print what it bore.

    Args:
        share: of the whole load: 1 takes about half an hour.
    """
    with running_program() as program:
        _writers(program, round(500 * share))
        _faults(program, round(10_000 * share))
        _memory(program, round(205 * share))
        _callers(program, 600 * share)


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


def _memory(program: Program, times: int) -> None:
    with program.client(600) as client:
        held = memory_of_workings(program, client, 400_000, times)
    places = range(0, len(held), max(len(held) // 5, 1))
    shown = ", ".join(f"{held[k] // MIB} MB after {k + 1}" for k in places)
    print(f"workings of 400,000 rows: {shown}; {held[-1] // MIB} MB at the end")


def _callers(program: Program, seconds: float) -> None:
    found = waits(program.client, 50, seconds)
    by_kind = defaultdict[str, list[float]](list)
    for kind, waited, _ in found:
        by_kind[kind].append(waited)
    refused = sum(status >= 400 for _, _, status in found)
    print(f"50 callers for {seconds:.0f} s: {len(found)} requests, {refused} refused")
    for kind, all_of_it in by_kind.items():
        half, most = np.quantile(all_of_it, [0.5, 0.99])
        print(
            f"  {kind}: {1000 * half:.0f} ms half of the time, {1000 * most:.0f} ms 99 times of 100"
        )

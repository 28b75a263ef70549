"""Much work on many rows: the memory that is held after each piece of it."""

import httpx
import numpy as np

from hourglass.cli.load.callers import changed, settled
from hourglass.cli.load.program import Program


def memory_of_workings(program: Program, client: httpx.Client, rows: int, times: int) -> list[int]:
    """Bytes that the program holds after each of so many workings of a study of so many rows."""
    study = study_of(client, rows)
    held = []
    for k in range(times):
        settled(
            client, f"/studies/{study}/estimate/workings/survival?group={k % 2}&t={10 + k}&most=20"
        )
        held.append(program.memory())
    return held


def memory_of_slots(program: Program, client: httpx.Client, rows: int, times: int) -> list[int]:
    """Bytes that the program holds after each of so many changes of a slot, each with its curves."""
    study = study_of(client, rows)
    held = []
    for k in range(times):
        prepared = settled(client, f"/studies/{study}/prepare")
        statement = prepared["follow_up"] | {"event_name": f"event {k}"}
        _made(client, study, "/follow-up", json=statement)
        settled(client, f"/studies/{study}/estimate")
        held.append(program.memory())
    return held


def study_of(client: httpx.Client, rows: int) -> str:
    """A study of made-up rows whose curves can be estimated."""
    rng = np.random.default_rng(24)
    lines = zip(
        rng.exponential(900, rows), rng.integers(0, 2, rows), rng.integers(0, 2, rows), strict=True
    )
    text = "days,died,arm\n" + "".join(f"{t:.0f},{s},{'ab'[g]}\n" for t, s, g in lines)
    study: str = client.post("/studies", json={"name": "many rows"}).json()["id"]
    _made(client, study, "/file?name=rows.csv", content=text.encode())
    prepared = settled(client, f"/studies/{study}/prepare")
    meanings = {"1": {"meaning": "event"}, "0": {"meaning": "censored"}}
    clock = {"kind": "duration", "column": "days"}
    statement = prepared["follow_up"] | {
        "clock": clock, "unit": "days", "outcome": "died", "meanings": meanings, "ended": "codes",
    }  # fmt: skip
    _made(client, study, "/follow-up", json=statement)
    found = settled(client, f"/studies/{study}/estimate")
    assert found["result"] is not None, found
    by_arm = found["statement"] | {"stage": "estimate", "by": "arm"}
    _made(client, study, "/statement", json=by_arm)
    return study


def _made(client: httpx.Client, study: str, path: str, **given: object) -> None:
    done = changed(client, "PUT", study, path, **given)
    assert done.is_success, done.text

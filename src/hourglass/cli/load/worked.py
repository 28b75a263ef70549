"""Much work on many rows: the memory that is held after each piece of it."""

import time

import httpx
import numpy as np

from hourglass.cli.load.program import Program


def memory_of_workings(program: Program, client: httpx.Client, rows: int, times: int) -> list[int]:
    """Bytes that the program holds after each of so many workings of a study of so many rows."""
    study = study_of(client, rows)
    held = []
    for k in range(times):
        asked = {"group": k % 2, "t": 10 + k, "most": 20}
        path = f"/studies/{study}/estimate/workings/survival"
        while client.get(path, params=asked).json().get("work"):
            time.sleep(0.1)
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
    _changed(client, "PUT", study, "file?name=rows.csv", content=text.encode())
    while (prepared := client.get(f"/studies/{study}/prepare").json())["reply"]["work"]:
        time.sleep(0.1)
    meanings = {"1": {"meaning": "event"}, "0": {"meaning": "censored"}}
    clock = {"kind": "duration", "column": "days"}
    statement = prepared["follow_up"] | {
        "clock": clock, "unit": "days", "outcome": "died", "meanings": meanings, "ended": "codes",
    }  # fmt: skip
    _changed(client, "PUT", study, "follow-up", json=statement)
    while (found := client.get(f"/studies/{study}/estimate").json())["work"]:
        time.sleep(0.1)
    assert found["result"] is not None, found
    _changed(
        client,
        "PUT",
        study,
        "statement",
        json=found["statement"] | {"stage": "estimate", "by": "arm"},
    )
    return study


def _changed(client: httpx.Client, method: str, study: str, path: str, **given: object) -> None:
    seen = client.get(f"/studies/{study}").headers["etag"]
    done = client.request(method, f"/studies/{study}/{path}", headers={"If-Match": seen}, **given)  # type: ignore[arg-type]
    assert done.is_success, done.text

"""Callers of a program: several who write at once, one who sends what nobody would, many who look."""

import json
import time
from collections import Counter
from collections.abc import Callable, Mapping
from concurrent.futures import ThreadPoolExecutor
from contextlib import AbstractContextManager
from dataclasses import dataclass
from itertools import islice
from typing import Any

import httpx

from hourglass.cli.load.requests import Requests

OpenClient = Callable[[], AbstractContextManager[httpx.Client]]
"""Opens a client of the interface, as many as are wanted."""
FAULT = 500
ARRIVING = 0.2
"""The share of the time within which the callers come."""
READS_FOR = 2.0
"""Seconds for which a caller reads what came."""
PLACES = {"analysis_id": [1, 2, 3], "step_id": [1, 2], "number": [1, 5], "group": [0, 1]}


def settled(client: httpx.Client, path: str) -> dict[str, Any]:
    """What a stage answers once no work on it is under way."""
    while True:
        answer: dict[str, Any] = client.get(path).json()
        if not answer.get("reply", answer).get("work"):
            return answer
        time.sleep(0.1)


def changed(
    client: httpx.Client, method: str, study: str, path: str = "", **given: Any
) -> httpx.Response:
    """A change of a study, made from the revision that it has now."""
    seen = client.get(f"/studies/{study}").headers["etag"]
    return client.request(method, f"/studies/{study}{path}", headers={"If-Match": seen}, **given)


def count_up(client: httpx.Client, study: str, times: int) -> int:
    """Rename a study to the next number, each time from what was seen; how often that was acknowledged."""
    made = 0
    for _ in range(times):
        seen = client.get(f"/studies/{study}")
        name = str(int(seen.json()["name"]) + 1)
        done = client.patch(
            f"/studies/{study}", json={"name": name}, headers={"If-Match": seen.headers["etag"]}
        )
        made += done.is_success
    return made


def lost_changes(open_client: OpenClient, writers: int, times: int) -> tuple[int, int]:
    """Acknowledged changes of several writers, and how many of them the study does not hold."""
    with open_client() as client:
        study = client.post("/studies", json={"name": "0"}).json()["id"]

    def write(_: int) -> int:
        with open_client() as own:
            return count_up(own, study, times)

    with ThreadPoolExecutor(writers) as threads:
        made = sum(threads.map(write, range(writers)))
    with open_client() as client:
        return made, made - int(client.get(f"/studies/{study}").json()["name"])


def answered_by_faults(client: httpx.Client, demo: str, times: int, seed: int) -> Counter[int]:
    """How requests that nobody would send were answered, by their status."""
    study = client.post("/studies", json={"demo": demo}).json()["id"]
    prepared = settled(client, f"/studies/{study}/prepare")
    columns = [column["name"] for column in prepared["reply"]["result"]["columns"]]
    known: Mapping[str, list[Any]] = {**PLACES, "study_id": [study], "text": ["0", "1", *columns]}
    here = "/api/studies/{study_id}/"
    bodies = {
        f"put {here}follow-up": [prepared["follow_up"]],
        f"put {here}plan-in-place": [client.get(f"/studies/{study}/plan.json").json()],
        f"put {here}steps.json": [client.get(f"/studies/{study}/steps.json").json()],
    }
    interface = client.get("/openapi.json").json()
    found = Counter[int]()
    for made in islice(Requests(interface, known, bodies, seed), times):
        path = made.path.removeprefix("/api")
        reply = client.request(made.method, path, headers=dict(made.headers), content=made.body)
        found[reply.status_code] += 1
        if reply.status_code >= FAULT:
            print(
                json.dumps(
                    {"method": made.method, "path": made.path[:200], "answer": reply.text[:300]}
                )
            )
    return found


@dataclass(frozen=True, slots=True)
class Waited:
    """A request: its kind, when it was sent, by the monotonic clock, for how long, and its answer."""

    kind: str
    begun: float
    seconds: float
    status: int


def waits(open_client: OpenClient, callers: int, seconds: float) -> list[Waited]:
    """What many callers at once wait for.

    Each has a study of its own, looks at the list, the study, Prepare and Estimate, and renames it, in turn,
    and reads for two seconds between any two of these. They come one after another, all within the first
    fifth of the time.
    """
    until = time.monotonic() + seconds

    def call(k: int) -> list[Waited]:
        found: list[Waited] = []
        time.sleep(ARRIVING * seconds * k / callers)
        with open_client() as client:

            def timed(kind: str, method: str, path: str, **given: Any) -> httpx.Response:
                begun = time.monotonic()
                reply = client.request(method, path, **given)
                found.append(Waited(kind, begun, time.monotonic() - begun, reply.status_code))
                time.sleep(READS_FOR)
                return reply

            study = timed("demo", "POST", "/studies", json={"demo": "lamps"}).json()["id"]
            while time.monotonic() < until:
                timed("list", "GET", "/studies")
                seen = timed("open", "GET", f"/studies/{study}")
                timed("prepare", "GET", f"/studies/{study}/prepare")
                timed("estimate", "GET", f"/studies/{study}/estimate")
                header = {"If-Match": seen.headers["etag"]}
                timed("change", "PATCH", f"/studies/{study}", json={"name": f"{k}"}, headers=header)
        return found

    with ThreadPoolExecutor(callers) as threads:
        return [one for found in threads.map(call, range(callers)) for one in found]

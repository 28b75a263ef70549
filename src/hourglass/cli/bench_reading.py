"""Measuring how a file is read and looked at, against a bare reader in the same run."""

import io
import time
from collections.abc import Callable

import numpy as np
import pyarrow as pa
from pyarrow import csv as arrow_csv

from hourglass.cohort.findings.find import find
from hourglass.cohort.parquet import from_parquet, to_parquet
from hourglass.cohort.profile import profile
from hourglass.cohort.proposal.propose import propose
from hourglass.cohort.reading.read import read

COLUMNS = 10
REPEATS = 3


def run_reading_bench(rows: int) -> None:
    """Print seconds, and how many times the floor each piece of work takes."""
    rng = np.random.default_rng(7)
    x = rng.normal(size=(rows, COLUMNS))
    t = np.ceil(rng.exponential(size=rows) * 365) / 365
    status = (rng.random(rows) < 0.6).astype(np.int64)
    group = rng.integers(0, 3, rows)
    print(f"\nreading, best of {REPEATS}")
    text = _csv_text(t, status, group, x)
    reader = _best(lambda: arrow_csv.read_csv(pa.BufferReader(text)))
    table = read(text).table
    width = len(table.columns)
    _line(f"read a CSV, {width} typed columns", lambda: read(text), reader, "bare reader")
    _line("profile every column", lambda: profile(table), reader, "bare reader")
    _line("look for findings", lambda: find(table, propose(table)), reader, "bare reader")
    parquet = to_parquet(table)
    _line("load the kept table", lambda: from_parquet(parquet), reader, "bare reader")


def _best(work: Callable[[], object]) -> float:
    taken = []
    for _ in range(REPEATS):
        begun = time.perf_counter()
        work()
        taken.append(time.perf_counter() - begun)
    return min(taken)


def _line(name: str, work: Callable[[], object], floor: float, of: str) -> None:
    seconds = _best(work)
    print(f"{name:<46}{seconds:>10.3f}  {seconds / floor:8.1f} × one {of}", flush=True)


def _csv_text(t: np.ndarray, status: np.ndarray, group: np.ndarray, x: np.ndarray) -> bytes:
    out = io.BytesIO()
    days = (t * 365).astype("timedelta64[D]")
    start = np.datetime64("2010-01-01") + (np.arange(t.size) % 2000)
    words = np.array(["low", "mid", "high"])[group]
    names = ["time", "status", "arm", "started", "ended", "id", "site", "sex", "ward", "grade"]
    arrays = [t, status, words, start, start + days, np.arange(t.size), group, words, words, group]
    names += [f"x{k}" for k in range(x.shape[1])]
    arrays += [*np.round(x, 3).T]
    arrow_csv.write_csv(pa.table(dict(zip(names, map(pa.array, arrays), strict=True))), out)
    return out.getvalue()

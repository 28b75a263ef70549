"""Follow-up data, random and degenerate, for the program and for the literal transcriptions alike."""

import math

import numpy as np

from core.literal import data as literal_data
from hourglass.core.followup import follow_up

INF = math.inf


def _random(seed, n, *, late=False, counts=False, ties=True, competing=False):
    rng = np.random.default_rng(seed)
    t = rng.exponential(10, n)
    t = np.ceil(t * 2) / 2 if ties else t
    s = rng.choice([0, 1, 2] if competing else [0, 1], n)
    e = np.where(rng.random(n) < 0.4, np.floor(t * rng.random(n) * 8) / 8, -INF)
    e = np.where(e >= t, -INF, e) if late else np.full(n, -INF)
    w = rng.integers(1, 4, n) if counts else np.ones(n, dtype=int)
    return {"t": t, "s": s, "e": e, "w": w}


def _stated(t, s, e=None, w=None):
    n = len(t)
    return {
        "t": np.array(t, float),
        "s": np.array(s),
        "e": np.full(n, -INF) if e is None else np.array(e, float),
        "w": np.ones(n, dtype=int) if w is None else np.array(w),
    }


CASES = {
    "ties": _random(1, 60),
    "no ties": _random(2, 50, ties=False),
    "counts": _random(3, 40, counts=True),
    "late entry": _random(4, 60, late=True),
    "late entry and counts": _random(5, 50, late=True, counts=True),
    "competing events": _random(6, 70, competing=True),
    "competing events, late": _random(7, 60, competing=True, late=True, counts=True),
    "one row, an event": _stated([3], [1]),
    "one row, censored": _stated([3], [0]),
    "all censored": _stated([1, 2, 3, 4], [0, 0, 0, 0]),
    "all events": _stated([1, 2, 3, 4, 5], [1, 1, 1, 1, 1]),
    "all at one time": _stated([2, 2, 2, 2], [1, 1, 1, 1]),
    "an event at 0": _stated([0, 0, 1, 2], [1, 0, 1, 0]),
    "emptied midway": _stated([1, 2, 5, 6, 7], [1, 1, 1, 0, 1], [-INF, -INF, 3, 3, 4]),
    "one at risk": _stated([1, 2, 5, 9], [1, 1, 1, 0], [-INF, 1.5, 3, 6]),
    "counts of a billion": _stated(
        [1, 2, 2, 3, 4], [1, 1, 0, 1, 0], None, [3, 10**9, 10**9, 7 * 10**8, 2 * 10**9]
    ),
    "a share that is just met": _stated([1, 2, 3, 4], [1, 1, 1, 1]),
    "tiny times": _stated([1e-300, 2e-300, 3e-300, 5e-300], [1, 0, 1, 1]),
    "huge times": _stated([1e300, 2e300, 3e300, 5e300], [1, 0, 1, 1]),
}


def both(name, group=None, stratum=None):
    """The case as the program takes it, and as literal rows."""
    c = CASES[name]
    data = follow_up(c["t"], c["s"], c["e"], c["w"])
    return data, literal_data.rows(**c, g=group, stratum=stratum)

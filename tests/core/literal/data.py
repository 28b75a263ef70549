"""Section 1: rows, and who is at risk when."""

import math
from dataclasses import dataclass

from mpmath import erfinv, mpf, sqrt


@dataclass
class Row:
    t: float
    s: int = 1
    e: float = -math.inf
    w: int = 1
    g: int = 0
    stratum: int = 0
    subject: int | None = None


def rows(t, s, e=None, w=None, g=None, stratum=None, subject=None):
    n = len(t)
    columns = {"e": e, "w": w, "g": g, "stratum": stratum, "subject": subject}
    given = {name: values for name, values in columns.items() if values is not None}
    return [
        Row(float(t[i]), int(s[i]), **{k: type(v[i].item() if hasattr(v[i], "item") else v[i])(v[i])
                                       for k, v in given.items()})
        for i in range(n)
    ]  # fmt: skip


def at_risk(data, t):
    return sum(r.w for r in data if r.e < t <= r.t)


def event_times(data, of=lambda r: r.s == 1):
    return sorted({r.t for r in data if of(r) and r.w > 0})


def deaths(data, t, of=lambda r: r.s == 1):
    return sum(r.w for r in data if r.t == t and of(r))


def end(data):
    return max(r.t for r in data if r.w > 0)


def z_of(level):
    return sqrt(2) * erfinv(mpf(str(level)))


def near_ties(times, tolerance):
    """Going up, each time or the first of its cluster."""
    first, becomes = None, {}
    for t in sorted(set(times)):
        if first is None or first <= 0 or not t - first <= tolerance * t:
            first = t
        becomes[t] = first
    return [becomes[t] for t in times]


def sample_quantile(values, p):
    ordered = sorted(values)
    at = (len(ordered) - 1) * mpf(p)
    k = int(at)
    if at == k:
        return ordered[k]
    return ordered[k] + (at - k) * (mpf(ordered[k + 1]) - ordered[k])

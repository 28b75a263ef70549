"""Section 11: time-varying covariates, read record by record at one time, in exact fractions.

A record is (u, value), a period (from, to, value); a value is None where there is none. ``b`` is the
subject's baseline time.
"""

from fractions import Fraction as F

INF = float("inf")
ALIKE = F(1, 10**12)


def before(u, t, b):
    """Whether a record counts at t: strictly before it, at the baseline and before up to b."""
    return u <= b if t <= b else u < t


def within(u, limit, t, b):
    """Whether a record is not older than its limit: only while t ≤ u + A, at baseline b < u + A."""
    return b < u + limit if t <= b else t <= u + limit


RULES = {
    "first": lambda values: values[0],
    "last": lambda values: values[-1],
    "mean": lambda values: sum(map(F, values)) / len(values),
    "smallest": min,
    "largest": max,
}


def in_force(records, t, b, limit=INF, lag=0, rule="first"):
    known = [(u + lag, v) for u, v in records if v is not None and before(u + lag, t, b)]
    if not known:
        return None
    last = max(u for u, _ in known)
    if not within(last, limit, t, b):
        return None
    values = [v for u, v in known if u == last]
    return values[0] if len(set(values)) == 1 else RULES[rule](values)


def change(records, t, b, rule="first"):
    now, then = in_force(records, t, b, rule=rule), in_force(records, b, b, rule=rule)
    return None if now is None or then is None else F(now) - F(then)


def counted(records, t, b, window, lag, after_baseline):
    return [
        (u + lag, v)
        for u, v in records
        if before(u + lag, t, b)
        and within(u + lag, window, t, b)
        and not (after_baseline and u <= b)
    ]


def gathered(kind, records, t, b, window=INF, lag=0, after_baseline=False):
    those = counted(records, t, b, window, lag, after_baseline)
    values = [F(v) for _, v in those if v is not None]
    match kind:
        case "count":
            return len(those)
        case "ever":
            return int(bool(those))
        case "sum":
            return sum(values)
    if not values:
        return None
    return {"mean": sum(values) / len(values), "largest": max(values), "smallest": min(values)}[
        kind
    ]


def since(records, t, b, cuts, last, window=INF, lag=0):
    those = counted(records, t, b, window, lag, after_baseline=False)
    if not those:
        return -1
    u = max(u for u, _ in those) if last else min(u for u, _ in those)
    return band(F(max(t, b)) - F(u), cuts)


def band(value, cuts):
    """(≤ a_1, (a_1, a_2], …): how many cuts a value exceeds; equal within 1e-12 a is equal."""
    return sum(value > F(a) * (1 + ALIKE) for a in cuts)


def value_of_period(periods, t, b, outside=None):
    for start, end, value in periods:
        if start <= b < end if t <= b else start < t <= end:
            return value
    return outside


def cumulative(periods, t, b, cuts, *, rate=True):
    t = max(t, b)
    total = F(0)
    for start, end, value in periods:
        if start < t:
            if value is None and rate:
                return None
            total += F(value if rate else 1) * (F(min(t, end)) - F(start))
    return band(total, cuts)


def pieces(rows, values_at, times):
    """Each row (subject, entry, exit, status) parted where a value differs just after from at a time.

    Args:
        values_at: (subject, t) → what it holds at t.
        times: all times at which something may change, and moments between them.
    """
    made = []
    for subject, entry, exit, status in rows:
        start = entry
        inside = [c for c in times if max(entry, 0) < c < exit]
        for c in inside:
            following = min([x for x in times if x > c] + [exit])
            just_after = (c + min(following, exit)) / 2
            if values_at(subject, just_after) != values_at(subject, c):
                made.append((subject, start, c, 0, values_at(subject, c)))
                start = c
        made.append((subject, start, exit, status, values_at(subject, exit)))
    return made


def first_of(rows, records, b, *, own_first=False):
    """The rows (entry, exit, status) of a subject, ended by the first (u, kind) that counts.

    Gives the rows with the kind that ended each (None where none did), whether the subject is prevalent, and
    whether its first record lies in a gap.
    """
    end = max(t for _, t, _ in rows)
    ended = any(t == end and s > 0 for _, t, s in rows)
    counted = [
        (u, k) for u, k in records if b < u <= end and not (own_first and u == end and ended)
    ]
    prevalent = any(u <= b for u, _ in records)
    if not counted:
        return [(e, t, s, None) for e, t, s in rows], prevalent, False
    u, kind = min(counted)
    kept = [(e, t, s) for e, t, s in rows if e < u]
    found = [(e, u, s, kind) if u <= t else (e, t, s, None) for e, t, s in kept]
    return found, prevalent, all(k is None for *_, k in found)

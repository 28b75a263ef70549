"""How often the model orders two rows as they happened (Harrell, Lee & Mark 1996;
methods.md, section 4: Proportional hazards regression)."""

from dataclasses import dataclass
from typing import Any, TypeAlias

import numpy as np
from numpy.typing import NDArray

from hourglass.core.arrays import BoolArray, FloatArray, IntArray
from hourglass.core.earlier_lower import both_sides
from hourglass.core.errors import Refusal, RefusedRowsError
from hourglass.core.followup import FollowUp
from hourglass.core.subjects import copies_of_subjects

Counts: TypeAlias = NDArray[Any]
MAX_SMALL_COUNT = 2**31
"""Counts that add up to less are added as small whole numbers, in half the memory."""


@dataclass(frozen=True, slots=True)
class Concordance:
    """Share of comparable pairs in which the higher score had the event first, ties counting ½.

    Absent, with ``blank`` giving the reason, when no pair is comparable. ``pairs`` includes counts.
    """

    value: float | None
    standard_error: float | None
    pairs: float
    blank: str | None = None


def concordance(data: FollowUp, score: FloatArray, stratum: IntArray | None = None) -> Concordance:
    """Concordance of ``score`` (n,) with the order of events, within strata (n,); O(n log n).

    The standard error is the infinitesimal jackknife over subjects. Scores are equal only where
    they are the same number.

    Raises:
        RefusedRowsError: naming rows whose score is missing or infinite.
    """
    strange = np.flatnonzero(~np.isfinite(score))
    if strange.size:
        raise RefusedRowsError((Refusal("the score is missing or infinite", strange),))
    event = data.event()
    kind = np.int32 if data.size < MAX_SMALL_COUNT else np.float64
    weight: Counts = data.count.astype(kind)
    code = _codes(score)
    ties = int(code.max()) + 1 < code.size
    agree, pairs = _compared(
        _Rows(
            time=data.exit,
            event=event,
            code=code,
            part=stratum,
            as_later=weight,
            as_event=weight * event,
        ),
        data.order[::-1],
        ties,
    )
    if data.entry is not None:
        # Pairs with a row that enters only later are taken out: for those it ends at its entry.
        ended, late = data.order[event[data.order]], data.entering
        rows, first = np.concatenate([ended, late]), np.arange(ended.size + late.size) < ended.size
        time = np.concatenate([data.exit[ended], data.entry[late]])
        own = weight[rows]
        unseen = _Rows(
            time=time,
            event=first,
            code=code[rows],
            part=None if stratum is None else stratum[rows],
            as_later=own * ~first,
            as_event=own * first,
        )
        lost = _compared(unseen, np.argsort(time, kind="stable")[::-1], ties)
        for found, less in zip((agree, pairs), lost, strict=True):
            found[ended] -= less[: ended.size]
            found[late] -= less[ended.size :]
    return of_pairs(data, agree, pairs)


def of_pairs(data: FollowUp, agree: FloatArray, pairs: FloatArray) -> Concordance:
    """The share of agreeing pairs, from what agrees among each row's pairs (n,), and all of them (n,)."""
    weight = data.count
    total = float(weight @ pairs) / 2
    if total == 0:
        return Concordance(None, None, 0.0, "no two rows can be put in order")
    value = float(weight @ agree) / 2 / total
    subject, copies = copies_of_subjects(data)
    influence = np.bincount(subject, agree - value * pairs) / total
    return Concordance(value, float(np.sqrt(copies @ influence**2)), total)


@dataclass(frozen=True, slots=True, kw_only=True)
class _Rows:
    """Rows to be compared: an event with all that end later, or at its time without an event.

    Attributes:
        time, event, part: (n,) when each ends, whether with the event, and its stratum.
        code: (n,) the place of its score among the distinct ones.
        as_later: (n,) what it counts for beside an event; ``as_event``: and for those that end later.
    """

    time: FloatArray
    event: BoolArray
    code: NDArray[np.int32]
    part: IntArray | None
    as_later: Counts
    as_event: Counts


def _compared(rows: _Rows, falling: IntArray, ties: bool) -> tuple[FloatArray, FloatArray]:
    """(n,) what agrees among each row's pairs, and all of them.

    Args:
        falling: (n,) the rows by falling time, at each time those without the event first.
        ties: whether two rows that may make a pair have the same score.
    """
    n, order, strata = falling.size, falling, np.zeros(1, dtype=np.int64)
    event, opens = rows.event[order], np.ones(falling.size, dtype=bool)
    if rows.part is not None:
        order = falling[np.argsort(rows.part[falling], kind="stable")]
        event, part = rows.event[order], rows.part[order]
        strata = np.flatnonzero(np.diff(part, prepend=part[0] - 1))
    time = rows.time[order]
    opens[1:] = (time[1:] != time[:-1]) | (event[1:] != event[:-1])
    opens[strata] = True
    run = np.cumsum(opens, dtype=np.int32) - np.int32(1)
    order = _highest_first(
        order, rows.code, np.flatnonzero(event & (np.bincount(run)[run] > 1)), run
    )
    c = rows.code[order]
    del time, opens
    codes = int(c.max()) + 1
    if codes > n or strata.size > 1 or np.bincount(c).max() > 1:
        # Strata in falling order, so that nobody of an earlier one is lower; of equal scores the
        # earlier one is higher, so that it is not lower than the other.
        own = np.repeat(np.arange(strata.size)[::-1], np.diff(strata, append=n)) * codes + c
        by_score = np.argsort(own * n + np.arange(n)[::-1])
        rank = np.empty(n, dtype=np.int32)
        rank[by_score] = np.arange(n, dtype=np.int32)
        if not ties:
            del own, by_score
    else:
        rank, ties = c, False
    later, first = rows.as_later[order], rows.as_event[order]
    lower, higher = both_sides(rank, later[None], first[None])
    ends_later = later > 0
    agree = lower[0] * event + (higher[0] * ends_later).astype(np.float64)
    if ties:
        agree += _equal(by_score[::-1], run, own, later) / 2 * event
        agree += _equal(by_score, run, own, first) / 2 * ends_later
    turned = n - np.append(strata[1:], n)[::-1]
    pairs = _before_run(first[::-1], run[-1] - run[::-1], turned)[::-1] * ends_later
    pairs += _before_run(later, run, strata) * event
    by_row = np.empty((2, n))
    by_row[0, order], by_row[1, order] = agree, pairs
    return by_row[0], by_row[1]


def _codes(score: FloatArray) -> NDArray[np.int32]:
    """(n,) the place of each score among the distinct ones."""
    by_score = np.argsort(score)
    ordered = score[by_score]
    new = np.zeros(score.size, dtype=bool)
    new[1:] = ordered[1:] != ordered[:-1]
    code = np.empty(score.size, dtype=np.int32)
    code[by_score] = np.cumsum(new, dtype=np.int32)
    return code


def _highest_first(
    order: IntArray, code: NDArray[np.int32], tied: IntArray, run: NDArray[np.int32]
) -> IntArray:
    """(n,) the order with the higher score first among events at one time, at places ``tied``.

    Those are no pairs: so placed, they count for none.
    """
    if not tied.size:
        return order
    order, codes = order.copy(), int(code.max()) + 1
    within = np.argsort(run[tied].astype(np.int64) * codes + (codes - 1 - code[order[tied]]))
    order[tied] = order[tied[within]]
    return order


def _before_run(weight: Counts, run: NDArray[np.int32], starts: IntArray) -> FloatArray:
    """(n,) the weight from a stratum's start up to the run that each place is in."""
    before = np.zeros(weight.size + 1)
    np.cumsum(weight, out=before[1:])
    opens = np.flatnonzero(np.diff(run, prepend=-1))
    own = starts[np.searchsorted(starts, opens, side="right") - 1]
    return np.asarray((before[opens] - before[own])[run])


def _equal(
    by_score: IntArray, run: NDArray[np.int32], score: IntArray, weight: Counts
) -> FloatArray:
    """(n,) the weight of those of the same score that come before each place's run in an order by score."""
    before = np.zeros(weight.size + 1)
    np.cumsum(weight[by_score], out=before[1:])
    group, part = score[by_score], run[by_score]
    opens = np.flatnonzero(np.concatenate([[True], group[1:] != group[:-1]]))
    parts = np.concatenate([[True], (group[1:] != group[:-1]) | (part[1:] != part[:-1])])
    start = np.flatnonzero(parts)
    own = opens[np.searchsorted(opens, start, side="right") - 1]
    found = np.empty(run.size)
    found[by_score] = (before[start] - before[own])[np.cumsum(parts) - 1]
    return found

"""How often the model orders two rows as they happened (Harrell, Lee & Mark 1996;
methods.md, section 4: Proportional hazards regression)."""

from dataclasses import dataclass

import numpy as np

from hourglass.core.arrays import BoolArray, FloatArray, IntArray
from hourglass.core.earlier_lower import both_sides
from hourglass.core.errors import Refusal, RefusedRowsError
from hourglass.core.followup import FollowUp
from hourglass.core.people import copies_of_subjects

SMALL = 2**31
"""Counts that add up to less are added as small whole numbers, in half the memory."""


@dataclass(frozen=True, slots=True)
class Concordance:
    """Share of comparable pairs in which the higher score had the event first, ties counting ½.

    Absent, with ``blank`` saying why, when no pair is comparable. ``pairs`` includes counts.
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
    event, weight = data.event(), data.count.astype(np.float64)
    part = np.zeros(score.size, dtype=np.int64) if stratum is None else stratum
    falling = data.order[::-1]
    agree, pairs = _compared(_Rows(data.exit, event, score, part, weight, weight * event), falling)
    if data.entry is not None:
        # Pairs with a row that enters only later are taken out: for those it ends at its entry.
        late = np.flatnonzero(np.isfinite(data.entry))
        rows = np.concatenate([np.flatnonzero(event), late])
        first = np.arange(rows.size) < rows.size - late.size
        time = np.where(first, data.exit[rows], data.entry[rows])
        own = weight[rows]
        unseen = _Rows(time, first, score[rows], part[rows], own * ~first, own * first)
        lost = _compared(unseen, np.lexsort((first, -time)))
        np.subtract.at(agree, rows, lost[0])
        np.subtract.at(pairs, rows, lost[1])
    total = float(weight @ pairs) / 2
    if total == 0:
        return Concordance(None, None, 0.0, "no two rows can be put in order")
    value = float(weight @ agree) / 2 / total
    subject, copies = copies_of_subjects(data)
    influence = np.bincount(subject, (agree - value * pairs) / total)
    return Concordance(value, float(np.sqrt(copies @ influence**2)), total)


@dataclass(frozen=True, slots=True)
class _Rows:
    """Rows to be compared: an event with all that end later, or at its time without an event.

    Attributes:
        time, event, score, part: (n,) when each ends, whether with the event, its score and stratum.
        as_later: (n,) what it counts for beside an event; ``as_event``: and for those that end later.
    """

    time: FloatArray
    event: BoolArray
    score: FloatArray
    part: IntArray
    as_later: FloatArray
    as_event: FloatArray


def _compared(rows: _Rows, falling: IntArray) -> tuple[FloatArray, FloatArray]:
    """(n,) what agrees among each row's pairs, and all of them.

    Args:
        falling: (n,) the rows by falling time, at each time those without the event first.
    """
    n = falling.size
    order = falling
    if rows.part.any():
        order = falling[np.argsort(rows.part[falling], kind="stable")]
    time, event, part = rows.time[order], rows.event[order], rows.part[order]
    opens = np.ones(n, dtype=bool)
    opens[1:] = (time[1:] != time[:-1]) | (part[1:] != part[:-1]) | (event[1:] != event[:-1])
    run = np.cumsum(opens) - 1
    _, code = np.unique(rows.score, return_inverse=True)
    codes = int(code.max()) + 1
    # Events at one time are no pairs: among them the higher score comes first, and counts for none.
    tied = np.flatnonzero(event & (np.bincount(run)[run] > 1))
    within = np.argsort(run[tied] * codes + (codes - 1 - code[order[tied]]))
    order = order.copy()
    order[tied] = order[tied[within]]
    c = code[order]
    # Strata in falling order, so that nobody of an earlier one is lower; of equal scores the earlier
    # one is higher, so that it is not lower than the other.
    place = np.arange(n)
    strata = int(part.max()) - part
    by_score = np.argsort((strata * codes + c) * n + (n - 1 - place))
    rank = np.empty(n, dtype=np.int64)
    rank[by_score] = place
    later, first = rows.as_later[order], rows.as_event[order]
    if later.sum() < SMALL:
        few = np.array([later, first], dtype=np.int32)
        lower, higher = (side.astype(np.float64) for side in both_sides(rank, few[:1], few[1:]))
    else:
        lower, higher = both_sides(rank, later[None], first[None])
    agree = (lower[0] + _equal(by_score[::-1], run, strata * codes + c, later) / 2) * event
    ends_later = later > 0
    agree += (higher[0] + _equal(by_score, run, strata * codes + c, first) / 2) * ends_later
    starts = np.flatnonzero(np.diff(part, prepend=part[0] - 1))
    turned = n - np.append(starts[1:], n)[::-1]
    after = _before_run(first[::-1], run[-1] - run[::-1], turned)[::-1]
    pairs = _before_run(later, run, starts) * event + after * ends_later
    by_row = np.empty((2, n))
    by_row[:, order] = agree, pairs
    return by_row[0], by_row[1]


def _before_run(weight: FloatArray, run: IntArray, starts: IntArray) -> FloatArray:
    """(n,) the weight from a stratum's start up to the run that each place is in."""
    before = np.concatenate([[0.0], np.cumsum(weight)])
    opens = np.flatnonzero(np.diff(run, prepend=-1))
    own = starts[np.searchsorted(starts, opens, side="right") - 1]
    return np.asarray((before[opens] - before[own])[run])


def _equal(by_score: IntArray, run: IntArray, score: IntArray, weight: FloatArray) -> FloatArray:
    """(n,) the weight of those of the same score that come before each place's run in an order by score."""
    before = np.concatenate([[0.0], np.cumsum(weight[by_score])])
    group, part = score[by_score], run[by_score]
    opens = np.flatnonzero(np.concatenate([[True], group[1:] != group[:-1]]))
    parts = np.concatenate([[True], (group[1:] != group[:-1]) | (part[1:] != part[:-1])])
    start = np.flatnonzero(parts)
    own = opens[np.searchsorted(opens, start, side="right") - 1]
    found = np.empty(run.size)
    found[by_score] = (before[start] - before[own])[np.cumsum(parts) - 1]
    return found

"""How often the model orders two rows as they happened (Harrell, Lee & Mark 1996;
methods.md, section 4: Proportional hazards regression)."""

from dataclasses import dataclass

import numpy as np

from hourglass.core.arrays import FloatArray, IntArray
from hourglass.core.followup import FollowUp
from hourglass.core.regression.prefix_ranks import PrefixRanks

SAME_SCORE = 1e-12
"""Scores closer than this share of their range differ only by rounding."""


@dataclass(frozen=True, slots=True)
class Concordance:
    """Share of comparable pairs in which the higher score had the event first, ties counting ½.

    Absent, with ``blank`` saying why, when no pair is comparable. ``pairs`` includes counts.
    """

    value: float | None
    standard_error: float | None
    pairs: float
    blank: str | None = None


def concordance(data: FollowUp, score: FloatArray) -> Concordance:
    """Concordance of ``score`` (n,) with the order of events; O(n log n).

    The standard error is the infinitesimal jackknife over rows.
    """
    rank = _ranks(score)
    weight = data.count.astype(np.float64)
    happened = data.event()
    agree, pairs = np.zeros(rank.size), np.zeros(rank.size)

    # Row i with the event, against those followed longer (or censored at the same time).
    i = np.flatnonzero(happened)
    later = np.lexsort((happened, -data.exit))  # by falling time, the censored of a time first
    place = _place(data.exit[later], happened[later], data.exit[i])
    after = PrefixRanks(rank[later], weight[later])
    _add(agree, pairs, i, after, place, rank[i], lower_agrees=True)
    if data.entry is not None:
        entered = np.argsort(-data.entry, kind="stable")
        not_yet = np.searchsorted(-data.entry[entered], -data.exit[i], side="right")
        late = PrefixRanks(rank[entered], weight[entered])
        _add(agree, pairs, i, late, not_yet, rank[i], lower_agrees=True, sign=-1.0)

    # Row j, against the events before it (or at the same time, if j is censored).
    events = i[np.argsort(data.exit[i], kind="stable")]
    event_time = data.exit[events]
    everyone = np.arange(rank.size)
    before = np.where(
        happened,
        np.searchsorted(event_time, data.exit, side="left"),
        np.searchsorted(event_time, data.exit, side="right"),
    )
    earlier = PrefixRanks(rank[events], weight[events])
    _add(agree, pairs, everyone, earlier, before, rank, lower_agrees=False)
    if data.entry is not None:
        unseen = np.searchsorted(event_time, data.entry, side="right")
        _add(agree, pairs, everyone, earlier, unseen, rank, lower_agrees=False, sign=-1.0)

    total = float(weight @ pairs) / 2
    if total == 0:
        return Concordance(None, None, 0.0, "no two rows can be put in order")
    value = float(weight @ agree) / 2 / total
    influence = (agree - value * pairs) / total
    return Concordance(value, float(np.sqrt(weight @ influence**2)), total)


def _add(
    agree: FloatArray,
    pairs: FloatArray,
    rows: IntArray,
    others: PrefixRanks,
    first: IntArray,
    rank: IntArray,
    *,
    lower_agrees: bool,
    sign: float = 1.0,
) -> None:
    """Add to ``rows`` their pairs with the first ``first`` of the others, ties counting ½."""
    total = others.total(first)
    lower, not_higher = others.below(first, rank), others.below(first, rank + 1)
    wins = lower if lower_agrees else total - not_higher
    agree[rows] += sign * (wins + (not_higher - lower) / 2)
    pairs[rows] += sign * total


def _place(exit: FloatArray, happened: np.ndarray, at: FloatArray) -> IntArray:
    """How many of the sequence (falling time, censored first) come after an event at ``at``."""
    censored_too = np.searchsorted(-exit, -at, side="right")
    events_of_time = np.concatenate([[0], np.cumsum(happened)])
    longer = np.searchsorted(-exit, -at, side="left")
    events_then = events_of_time[censored_too] - events_of_time[longer]
    return np.asarray(censored_too - events_then, dtype=np.int64)


def _ranks(score: FloatArray) -> IntArray:
    distinct, position = np.unique(score, return_inverse=True)
    apart = np.diff(distinct) > SAME_SCORE * max(np.abs(distinct).max(), np.ptp(distinct))
    return np.asarray(np.concatenate([[0], np.cumsum(apart)])[position], dtype=np.int64)

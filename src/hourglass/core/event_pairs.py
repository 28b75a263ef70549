"""Where each row meets the event times of its stratum: rows are sorted once, and counted from then on."""

from dataclasses import dataclass

import numpy as np

from hourglass.core.arrays import BoolArray, FloatArray, IntArray
from hourglass.core.followup import FollowUp


@dataclass(frozen=True, slots=True)
class EventPairs:
    """The K pairs of a stratum and an event time in it, ascending, and where each row meets them.

    Attributes:
        time, stratum: (K,) the event time, and the stratum's code.
        starts, ends: where each stratum's pairs begin and end.
        opens: (K,) the place in ``order`` of the first row with that exit.
        order: (n,) the rows by stratum and exit; ``last``: (n,) in that order, the last pair up to
            each row's exit, one of an earlier stratum (or −1) where its own has none.
        happened: (n,) in that order, True for a row with the event.
        late: (m,) the rows that enter late; ``entered``: (m,) the last pair up to their entry, likewise.
    """

    time: FloatArray
    stratum: IntArray
    starts: IntArray
    ends: IntArray
    opens: IntArray
    order: IntArray
    last: IntArray
    happened: BoolArray
    late: IntArray
    entered: IntArray

    def inside(self, pair: IntArray, stratum: IntArray | None) -> BoolArray:
        """(m,) True where a pair is one of its row's own stratum."""
        there = pair >= 0
        if stratum is not None:
            there[there] = self.stratum[pair[there]] == stratum[there]
        return there

    def at_risk(self, last: IntArray, group: IntArray, count: IntArray, groups: int) -> IntArray:
        """(G, K) how many rows are there at each pair of their stratum up to their ``last`` (m,)."""
        from_here = np.cumsum(self.sums(last, group, count, groups)[:, ::-1], axis=1)[:, ::-1]
        for start, end in zip(self.starts[:-1], self.ends[:-1], strict=True):
            from_here[:, start:end] -= from_here[:, [end]]
        return from_here

    def sums(self, pair: IntArray, group: IntArray, count: IntArray, groups: int) -> IntArray:
        """(G, K) the counts of rows by group and pair."""
        size = self.time.size
        total = np.bincount(group * size + pair, weights=count, minlength=size * groups)
        return total.astype(np.int64).reshape(groups, size)


def event_pairs(data: FollowUp, stratum: IntArray | None = None) -> EventPairs:
    """The pairs of strata (n,) and event times of status 1; O(n log n)."""
    order, part = data.order, np.empty(0, dtype=np.int64)
    if stratum is not None:
        order = order[np.argsort(stratum[order], kind="stable")]
        part = stratum[order]
    exit, happened = data.exit[order], data.event()[order]
    opens = np.empty(order.size, dtype=bool)
    opens[0], opens[1:] = True, exit[1:] != exit[:-1]
    if stratum is not None:
        opens[1:] |= part[1:] != part[:-1]
    first = np.flatnonzero(opens)
    has_event = np.logical_or.reduceat(happened, first)
    at = first[has_event]
    of = np.zeros(at.size, dtype=np.int64) if stratum is None else part[at]
    starts = np.flatnonzero(np.concatenate([[True], of[1:] != of[:-1]])[: of.size])
    ends = np.append(starts[1:], of.size)[: starts.size]
    last = np.cumsum(has_event)[np.cumsum(opens) - 1] - 1
    late = entered = np.empty(0, dtype=np.int64)
    if data.entry is not None:
        late = np.flatnonzero(np.isfinite(data.entry))
        whose = np.zeros(late.size, dtype=np.int64) if stratum is None else stratum[late]
        entered = np.full(late.size, -1)
        by_stratum = np.argsort(whose, kind="stable")
        low, high = (np.searchsorted(whose[by_stratum], of[starts], s) for s in ("left", "right"))
        for start, end, a, b in zip(starts, ends, low, high, strict=True):
            rows = by_stratum[a:b]
            before = np.searchsorted(exit[at[start:end]], data.entry[late[rows]], "right")
            entered[rows] = start + before - 1
    return EventPairs(exit[at], of, starts, ends, at, order, last, happened, late, entered)

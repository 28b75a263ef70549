"""Where each row meets the event times of its stratum: rows are sorted once, and counted from then on."""

from dataclasses import dataclass

import numpy as np

from hourglass.core.arrays import BoolArray, FloatArray, IntArray
from hourglass.core.followup import FollowUp


@dataclass(frozen=True, slots=True, kw_only=True)
class EventPairs:
    """The K pairs of a stratum and an event time in it, ascending, and where each row meets them.

    Attributes:
        time, stratum: (K,) the event time, and the stratum's code.
        starts, ends: where each stratum's pairs begin and end.
        order: (n,) the rows by stratum and exit; ``last``: (n,) in that order, the last pair up to
            each row's exit, one of an earlier stratum (or −1) where its own has none.
        opens: (K,) the place in ``order`` of the first row with that exit; ``closes``: (K,) the place
            after the last row of the stratum.
        happened: (n,) in that order, True for a row with the event; ``event_rows``: the places of
            those; ``event_opens``: (K,) where each pair's begin among them.
        late: (m,) the rows that enter late, by stratum and entry; ``entered``: (m,) the last pair up
            to their entry, likewise.
        waiting: (K,) the place in ``late`` of the first row that has not entered before the time;
            ``late_closes``: (K,) the place after the last one of the stratum.
    """

    time: FloatArray
    stratum: IntArray
    starts: IntArray
    ends: IntArray
    order: IntArray
    last: IntArray
    opens: IntArray
    closes: IntArray
    happened: BoolArray
    event_rows: IntArray
    event_opens: IntArray
    late: IntArray
    entered: IntArray
    waiting: IntArray
    late_closes: IntArray

    def inside(self, pair: IntArray, stratum: IntArray | None) -> BoolArray:
        """(m,) True where a pair is one of its row's own stratum."""
        there = pair >= 0
        if stratum is not None:
            there[there] = self.stratum[pair[there]] == stratum[there]
        return there

    def at_events(self, count: IntArray) -> IntArray:
        """(K,) the sum over the rows with the event at each pair, of counts in the order of rows (n,)."""
        own = count[self.event_rows]
        return (
            own
            if own.size == self.time.size
            else np.add.reduceat(own, self.event_opens, dtype=np.int64)
        )

    def at_risk(self, count: IntArray, late_count: IntArray) -> IntArray:
        """(K,) the sum over those at risk, of counts in the order of rows (n,) and of late ones (m,)."""
        upto = _running(count)
        number = upto[self.closes] - upto[self.opens]
        if self.late.size:
            upto = _running(late_count)
            number -= upto[self.late_closes] - upto[self.waiting]
        return number


def _running(count: IntArray) -> IntArray:
    upto = np.zeros(count.size + 1, dtype=np.int64)
    np.cumsum(count, out=upto[1:])
    return upto


def event_pairs(data: FollowUp, stratum: IntArray | None = None) -> EventPairs:
    """The pairs of strata (n,) and event times of status 1; O(n log n)."""
    order, part = data.order, np.empty(0, dtype=np.int64)
    if stratum is not None:
        order = order[_by_code(stratum[order])]
        part = stratum[order]
    exit, happened = data.exit[order], data.event()[order]
    opens = np.empty(order.size, dtype=bool)
    opens[0], opens[1:] = True, exit[1:] != exit[:-1]
    if stratum is not None:
        opens[1:] |= part[1:] != part[:-1]
    # At each time those with the event stand first.
    at = np.flatnonzero(opens & happened)
    of = np.zeros(at.size, dtype=np.int64) if stratum is None else part[at]
    starts = np.flatnonzero(np.concatenate([[True], of[1:] != of[:-1]])[: of.size])
    ends = np.append(starts[1:], of.size)[: starts.size]
    last = np.repeat(np.arange(-1, at.size), np.diff(at, prepend=0, append=order.size))
    event_rows = np.flatnonzero(happened)
    closes = np.full(at.size, order.size)
    if stratum is not None:
        closes = np.searchsorted(part, of, side="right")
    late, whose = data.entering, np.zeros(data.entering.size, dtype=np.int64)
    if stratum is not None and late.size:
        late = late[_by_code(stratum[late])]
        whose = stratum[late]
    entered, waiting = np.full(late.size, -1), np.zeros(at.size, dtype=np.int64)
    late_closes = np.searchsorted(whose, of, side="right")
    if late.size:
        entry, time = np.asarray(data.entry)[late], exit[at]
        low, high = (np.searchsorted(whose, of[starts], side) for side in ("left", "right"))
        for start, end, a, b in zip(starts, ends, low, high, strict=True):
            entered[a:b] = start - 1 + np.searchsorted(time[start:end], entry[a:b], side="right")
            before = np.bincount(entered[a:b] - (start - 1), minlength=end - start + 1)
            waiting[start:end] = a + np.cumsum(before[:-1])
    return EventPairs(
        time=exit[at],
        stratum=of,
        starts=starts,
        ends=ends,
        order=order,
        last=last,
        opens=at,
        closes=closes,
        happened=happened,
        event_rows=event_rows,
        event_opens=np.searchsorted(event_rows, at),
        late=late,
        entered=entered,
        waiting=waiting,
        late_closes=late_closes,
    )


def _by_code(code: IntArray) -> IntArray:
    """(m,) a stable order by code; codes close to each other are counted, not compared."""
    low, high = (int(code.min()), int(code.max())) if code.size else (0, 0)
    small = (code - low).astype(np.uint16) if high - low < 1 << 16 else code
    return np.argsort(small, kind="stable")

"""Sums over risk sets without visiting each of them: rows in order of time are added up once."""

from dataclasses import dataclass
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from hourglass.core.arrays import BoolArray, FloatArray, IntArray
from hourglass.core.event_pairs import event_pairs
from hourglass.core.factors import Factors
from hourglass.core.followup import FollowUp
from hourglass.core.regression.spans import Spans, spans
from hourglass.core.regression.ties import EFRON, TieMethod
from hourglass.core.segments import Segments, segments

N = TypeVar("N", np.float64, np.int64)
BLOCK = 1 << 15
"""Rows that are taken at a time, so that they stay near the processor."""
MAX_YET_TO_ENTER = 1e3
"""Times those at risk: beyond, a difference of sums would lose more digits than a fit can spare."""
ROWS_PER_BLOCK = 1 << 12
"""Rows that are turned into columns at a time."""
MIN_ROWS_IN_BLOCKS = 1 << 12
"""Below so many rows it does not matter how blocks are added up."""
MAX_ROWS_PER_EVENT = 16
"""Up to so many rows an event, sums are taken of rows and events in one go."""
MIN_BLOCK = 8
"""Blocks of fewer rows are added up row by row rather than block by block."""


@dataclass(frozen=True, slots=True, kw_only=True)
class RiskSets:
    """The risk sets of the K event times, those of each stratum apart; rows stand in order of exit.

    Values of rows are given, and returned, in that order: see :meth:`ordered`.

    Attributes:
        order: (n,) the data row at each place.
        count: (n,) rows each stands for.
        time, stratum: (K,) the event times; ``starts``, ``ends``: where each stratum's begin and end.
        events: (K,) d_j; ``factors``: what they give.
        event_rows: places of the rows with the event; ``event_time``: the event time of each.
        ever: (n,) True for rows at risk at some event time; None where all are.
        last: (n,) the last event time of its stratum up to each row's exit; below ``first`` if none.
        first: (n,) the first event time after each row's entry.

    Rows of one stratum stand in blocks: those with the event at a time, then those that leave before
    the next time. ``_edges`` (2K,) is where blocks begin, ``_wide`` (2K + 1,) how many rows there are
    before the first and in each, ``_places`` those that hold a row at all,
    ``_empty`` the blocks that hold none; where blocks are small and many, ``_block`` (n,) is that of each
    row, 2K before the first one. Rows that enter late (``_late``) are added up by ``_spans``,
    all others that are ever at risk (``_early``, None for all) by running sums from the end. Late
    rows in order of entry are ``entering``; those from ``waiting`` (K,) on enter at that time or later.
    ``_strata`` are the event times of each stratum, ``_rows_of_strata`` its rows from its first event on.
    """

    order: IntArray
    count: FloatArray
    time: FloatArray
    stratum: IntArray
    starts: IntArray
    ends: IntArray
    events: FloatArray
    factors: Factors
    event_rows: IntArray
    event_time: IntArray
    ever: BoolArray | None
    last: IntArray
    first: IntArray
    entering: IntArray
    waiting: IntArray
    _edges: IntArray
    _wide: IntArray
    _places: IntArray
    _empty: IntArray
    _block: IntArray | None
    _event_opens: IntArray
    _early: BoolArray | None
    _late: IntArray
    _late_events: BoolArray
    _spans: Spans | None
    _strata: Segments
    _rows_of_strata: Segments

    def ordered(self, values: NDArray[N]) -> NDArray[N]:
        """(n,) values of data rows by the order of the risk sets."""
        return values[self.order]

    def by_row(self, values: NDArray[N]) -> NDArray[N]:
        """(n,) values in the order of the risk sets by data row."""
        found = np.empty_like(values)
        found[self.order] = values
        return found

    def ordered_columns(self, x: FloatArray) -> FloatArray:
        """(p, n) columns of data rows by the order of the risk sets."""
        return columns_of(x.T, self.order)

    def mean_at_risk(self, columns: FloatArray) -> FloatArray:
        """(q,) the means of columns (q, n) over the rows that are ever at risk: a far value that no risk
        set holds would take digits from the others."""
        there = columns if self.ever is None else columns[:, self.ever]
        return np.asarray(there.mean(axis=1))

    def columns_by_row(self, x: FloatArray) -> FloatArray:
        """(p, n) columns in the order of the risk sets by data row."""
        found = np.empty_like(x)
        found[:, self.order] = x
        return found

    def over(
        self, values: FloatArray, by_difference: bool = False
    ) -> tuple[FloatArray, FloatArray]:
        """(K,) sums of ``values`` (n,) over those at risk without the event, and over those with it.

        Nothing is subtracted, so that a risk set of small scores keeps its digits beside a large one;
        unless sums ``by_difference`` are requested: everybody who stays, less those yet to enter.
        """
        early = values if self._early is None or by_difference else values * self._early
        # Rows stand in order of exit: who is at risk at an event time and stays are all rows of the stratum
        # behind those with the event then. Late rows are not: they count from their entry on.
        if self.event_rows.size == self.time.size:
            # One event at each time: every row is a step of the sum, and no block needs one of its own.
            tied, rest = values[self.event_rows], self._after_events(early)
        else:
            own, rest = self._blocks(early)
            tied = own if self._spans is None or by_difference else self.over_events(values)
            rest += self._strata.after(rest + own)
        if by_difference:
            rest = rest - self.yet_to_enter(values)
        elif self._spans is not None:
            rest = rest + self._spans.spread(values[self._late])
        return rest, tied

    @property
    def one_by_one(self) -> bool:
        """Whether there is one stratum, each event time has one event alone, and events are not so few that
        rows are better added up between them."""
        alone = self.starts.size == 1 and self.event_rows.size == self.time.size
        return (
            alone
            and not self.factors.tied.size
            and self.order.size <= MAX_ROWS_PER_EVENT * self.time.size
        )

    def differences_hold(self, score: FloatArray, total: FloatArray) -> bool:
        """Whether sums by difference keep their digits: ``total`` (K,) of scores at risk, 0 where never."""
        if self._spans is None or self.starts.size > 1:
            return False
        return bool((self.yet_to_enter(score) <= MAX_YET_TO_ENTER * total).all())

    def yet_to_enter(self, values: FloatArray) -> FloatArray:
        """(K,) the sum of ``values`` (n,) over those who enter at each event time or later."""
        from_here = np.zeros(self.entering.size + 1)
        np.cumsum(values[self.entering[::-1]], out=from_here[-2::-1])
        return from_here[self.waiting]

    def _after_events(self, values: FloatArray) -> FloatArray:
        """(K,) the sum of a stratum's rows that come after each row with the event."""
        first = int(self.event_rows[0])
        return self._rows_of_strata.after(values[first:])[self.event_rows - first]

    def _blocks(self, values: FloatArray) -> tuple[FloatArray, FloatArray]:
        """(K,) sums of the rows with the event at each time, and of those after it up to the next time.

        The former are at risk at their own time as tied, at the ones before as everybody else.
        """
        if self._block is not None:
            found = np.bincount(self._block, values, self._edges.size + 1).astype(
                np.float64, copy=False
            )
            return np.asarray(found[0:-1:2]), np.asarray(found[1:-1:2])
        # A sum over no rows is not 0 to reduceat but the row where the block would begin.
        sums = np.zeros(self._edges.size)
        sums[: self._places.size] = np.add.reduceat(values, self._places)
        sums[self._empty] = 0.0
        return sums[0::2], sums[1::2]

    def over_events(self, values: FloatArray) -> FloatArray:
        """(K,) the sum of ``values`` (n,) over the rows with the event at each time."""
        own = values[self.event_rows]
        if own.size == self.time.size:
            return own
        return np.add.reduceat(own, self._event_opens)

    def while_at_risk_by_difference(self, step: FloatArray) -> FloatArray:
        """(n,) the sum of ``step`` (K,) over the event times of one stratum that a row is at risk at, its own
        too: that up to its last one less that before its first."""
        upto = np.zeros(step.size + 1)
        np.cumsum(step, out=upto[1:])
        total = upto[self.last + 1]
        if self._spans is not None:
            total -= upto[self.first]
        return total if self.ever is None else total * self.ever

    @property
    def counted(self) -> FloatArray:
        """(n,) the count of each row, 0 for one that is at risk at no event time."""
        return self.count if self.ever is None else self.count * self.ever

    def while_at_risk(self, step: FloatArray, tied_step: FloatArray) -> FloatArray:
        """(n,) the sum of ``step`` (K,) over the event times a row is at risk at without the event,
        and of ``tied_step`` (K,) at its own event time.

        For rows that enter late nothing is subtracted.
        """
        # Rows of one block share their sum. The first leaves before any event; block 2j + 1 has the event at
        # time j, so is at risk without it at the times before alone; block 2j + 2 leaves after time j.
        blocks = np.zeros(2 * step.size + 1)
        blocks[2::2] = self._strata.running(step)
        blocks[3::2] = np.where(self._strata.last[:-1], 0.0, blocks[2:-1:2])
        blocks[1::2] += tied_step
        total = np.repeat(blocks, self._wide)
        if self._early is not None:
            total *= self._early
        if self._spans is not None:
            late = self._spans.gather(step)
            late[self._late_events] += tied_step[self.last[self._late[self._late_events]]]
            total[self._late] = late
        return total

    def at_risk(self, j: int) -> tuple[IntArray, IntArray]:
        """The places of the rows at risk at an event time, and of those with the event."""
        there = np.flatnonzero((self.first <= j) & (j <= self.last))
        return there, self.event_rows[self.event_time == j]

    def highest_at_risk(self, values: FloatArray, beside_events: bool = False) -> IntArray:
        """(K,) the place of the row with the largest of ``values`` (n,) in each risk set.

        ``beside_events`` leaves out those with the event at that time; −1 where that leaves nobody.
        """
        order = np.argsort(values, kind="stable")
        rank = np.empty(order.size, dtype=np.int64)
        rank[order] = np.arange(order.size)
        early = rank if self._early is None else np.where(self._early, rank, -1)
        blocks = np.full(self._edges.size, -1)
        blocks[: self._places.size] = np.maximum.reduceat(early, self._places)
        blocks[self._empty] = -1
        highest = blocks[1::2].copy()
        staying = np.maximum(blocks[0::2], highest)
        np.maximum(highest, self._strata.largest_after(staying), out=highest)
        if self._spans is not None:
            highest = np.maximum(highest, self._spans.largest(rank[self._late]))
        if not beside_events:
            own = np.maximum.reduceat(rank[self.event_rows], self._event_opens)
            highest = np.maximum(highest, own)
        return np.where(highest < 0, -1, order[highest])


def columns_of(x: FloatArray, order: IntArray, kept: BoolArray | None = None) -> FloatArray:
    """Transpose the columns of ``x`` (n, p) that are ``kept``, q of them, to (q, n), in ``order``."""
    some = slice(None) if kept is None or kept.all() else np.flatnonzero(kept)
    x = np.asarray(x, dtype=np.float64)
    taken = np.empty((min(ROWS_PER_BLOCK, order.size), x.shape[1]))
    found = np.empty((x[:1, some].shape[1], order.size))
    for start in range(0, order.size, ROWS_PER_BLOCK):
        rows = order[start : start + ROWS_PER_BLOCK]
        part = np.take(x, rows, axis=0, out=taken[: rows.size], mode="clip")
        found[:, start : start + ROWS_PER_BLOCK] = part[:, some].T
    return found


def risk_sets(data: FollowUp, ties: TieMethod = EFRON, stratum: IntArray | None = None) -> RiskSets:
    """Index the risk sets of status-1 events; O(n log n). There must be at least one event.

    Args:
        ties: how events at one time enter the likelihood.
        stratum: (n,) a code for each row; each stratum has risk sets of its own.
    """
    pairs = event_pairs(data, stratum)
    order, happened, last = pairs.order, pairs.happened, pairs.last
    count = data.count[order].astype(np.float64)
    event_rows, event_opens = pairs.event_rows, pairs.event_opens
    event_time = last[event_rows]
    first_event = int(event_rows[0]) if event_rows.size else order.size
    events = np.add.reduceat(count[event_rows], event_opens)
    edges = np.empty(2 * pairs.time.size, dtype=np.int64)
    edges[0::2] = pairs.opens
    edges[1::2] = pairs.opens + np.diff(event_opens, append=event_rows.size)
    empty = np.flatnonzero(np.diff(edges, append=order.size) == 0)
    places = edges[edges < order.size]  # the last block may hold nobody
    first = np.zeros(order.size, dtype=np.int64)
    if stratum is not None:
        first = np.searchsorted(pairs.stratum, stratum[order], side="left")
    early: BoolArray | None = None if stratum is None else last >= first
    entering = late = np.empty(0, dtype=np.int64)
    late_spans = None
    if pairs.late.size:
        place = np.empty(order.size, dtype=np.int64)
        place[order] = np.arange(order.size)
        entering = late = place[pairs.late]
        first[late] = np.maximum(first[late], pairs.entered + 1)
        in_order = np.argsort(late)
        late = late[in_order]
        early = last >= first if early is None else early
        early[late] = False
        late_spans = spans(first[late], last[late] + 1 - happened[late], pairs.time.size)
    ever = last >= first
    return RiskSets(
        order=order,
        count=count,
        time=pairs.time,
        stratum=pairs.stratum,
        starts=pairs.starts,
        ends=pairs.ends,
        events=events,
        factors=ties.factors(events),
        event_rows=event_rows,
        event_time=event_time,
        ever=None if ever.all() else ever,
        last=last,
        first=first,
        entering=entering,
        waiting=pairs.waiting,
        _edges=edges,
        _wide=np.diff(edges, prepend=0, append=order.size),
        _places=places,
        _empty=empty,
        _block=_block_of_each(edges, order.size),
        _event_opens=event_opens,
        _early=early,
        _late=late,
        _late_events=happened[late],
        _spans=late_spans,
        _strata=segments(pairs.starts, pairs.time.size),
        _rows_of_strata=segments(
            event_rows[event_opens[pairs.starts]] - first_event, order.size - first_event
        ),
    )


def _block_of_each(edges: IntArray, size: int) -> IntArray | None:
    """(n,) the block of each row, if blocks that begin at ``edges`` are small; one more before them."""
    if size < MIN_ROWS_IN_BLOCKS or size > MIN_BLOCK * edges.size:
        return None
    wide = np.diff(edges, prepend=0, append=size)
    return np.repeat(np.concatenate([[edges.size], np.arange(edges.size)]), wide)

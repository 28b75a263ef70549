"""Sums over risk sets, and over the factors of the likelihood, without visiting each risk set."""

from dataclasses import dataclass

import numpy as np

from hourglass.core.arrays import FloatArray, IntArray
from hourglass.core.followup import FollowUp
from hourglass.core.regression.spans import Spans, spans
from hourglass.core.regression.ties import EFRON, TieMethod


@dataclass(frozen=True, slots=True)
class RiskSets:
    """Where each of n rows enters and leaves the risk sets of the K event times.

    A time with d events gives d factors; factor l = 0 … d−1 leaves out a share of the tied events.

    Attributes:
        time: (K,) distinct event times; ``events``: (K,) d_j.
        count: (n,) rows each stands for.
        event_rows: rows with the event; ``event_time``: the index j of each one's time.
        factor_time: (D,) the index j of each factor; ``factor_share``: (D,) the share it leaves out.
        exit_time: (n,) number of event times ≤ exit.
        late: (m,) the rows that enter late, and ``late_spans`` when each is at risk.
    """

    time: FloatArray
    events: IntArray
    count: FloatArray
    event_rows: IntArray
    event_time: IntArray
    factor_time: IntArray
    factor_share: FloatArray
    exit_time: IntArray
    late: IntArray
    late_spans: Spans | None
    _sequence: IntArray
    _last: IntArray

    def over_risk(self, values: FloatArray) -> FloatArray:
        """(K, …) sum of ``values`` (n, …) over each risk set, counts included.

        Rows at risk from the start are added up from the last time to the first; those that
        enter late by their spans. Nothing is subtracted, so a risk set of small scores keeps
        its digits beside one of large scores.
        """
        weighted = (values.T * self.count).T
        total = np.zeros((self.time.size, *values.shape[1:]))
        leaving = self._last
        if leaving.size:
            # Sums over the rows that leave between one event time and the next.
            starts = np.concatenate([[0], np.flatnonzero(np.diff(leaving)) + 1])
            total[leaving[starts] - 1] = np.add.reduceat(weighted[self._sequence], starts, axis=0)
        total = np.cumsum(total[::-1], axis=0)[::-1]
        if self.late_spans is not None:
            total = total + self.late_spans.spread(weighted[self.late])
        return total

    def highest_at_risk(self, values: FloatArray) -> IntArray:
        """(K,) the row with the largest of ``values`` (n,) in each risk set."""
        order = np.argsort(values, kind="stable")
        rank = np.empty(order.size, dtype=np.int64)
        rank[order] = np.arange(order.size)
        highest = np.full(self.time.size, -1, dtype=np.int64)
        np.maximum.at(highest, self._last - 1, rank[self._sequence])
        highest = np.maximum.accumulate(highest[::-1])[::-1]
        if self.late_spans is not None:
            highest = np.maximum(highest, self.late_spans.largest(rank[self.late]))
        return np.asarray(order[highest])

    def over_events(self, values: FloatArray) -> FloatArray:
        """(K, …) sum of ``values`` (n, …) over the rows with the event at each time."""
        rows = self.event_rows
        weighted = (values[rows].T * self.count[rows]).T
        ordered = np.argsort(self.event_time, kind="stable")
        starts = np.searchsorted(self.event_time[ordered], np.arange(self.time.size))
        return np.add.reduceat(weighted[ordered], starts, axis=0)

    def over_factors(self, values: FloatArray) -> FloatArray:
        """(K, …) sum of ``values`` (D, …) over the factors of each event time."""
        starts = np.concatenate([[0], np.cumsum(self.events)[:-1]])
        return np.add.reduceat(values, starts, axis=0)

    def while_at_risk(self, step: FloatArray, tied_step: FloatArray) -> FloatArray:
        """(n,) sum of ``step`` (K,) over the event times a row is at risk at.

        A row with the event takes ``step − tied_step`` at its own time: it stands in the tied set
        with the share that its factor does not leave out.
        """
        running = np.concatenate([[0.0], np.cumsum(step)])
        total = running[self.exit_time]
        if self.late_spans is not None:
            total[self.late] = self.late_spans.gather(step)
        total[self.event_rows] -= tied_step[self.event_time]
        return total


def risk_sets(data: FollowUp, ties: TieMethod = EFRON) -> RiskSets:
    """Index the risk sets of status-1 events; O(n log n). There must be at least one event."""
    event_rows = np.flatnonzero(data.event())
    time, event_time = np.unique(data.exit[event_rows], return_inverse=True)
    events = np.bincount(event_time, weights=data.count[event_rows]).astype(np.int64)
    factor_time = np.repeat(np.arange(time.size), events)
    first = np.cumsum(events) - events
    place = np.arange(factor_time.size) - first[factor_time]
    factor_share = ties.share(place, events[factor_time])
    exit_time = np.searchsorted(time, data.exit, side="right")
    late = np.empty(0, dtype=np.int64)
    late_spans = None
    if data.entry is not None:
        late = np.flatnonzero(np.isfinite(data.entry))
        entry_time = np.searchsorted(time, data.entry[late], side="right")
        late_spans = spans(entry_time, exit_time[late], time.size)
    early = np.setdiff1d(np.flatnonzero(exit_time > 0), late, assume_unique=True)
    sequence = early[np.argsort(exit_time[early], kind="stable")]
    return RiskSets(
        time,
        events,
        data.count.astype(np.float64),
        event_rows,
        event_time,
        factor_time,
        factor_share,
        exit_time,
        late,
        late_spans,
        sequence,
        exit_time[sequence],
    )

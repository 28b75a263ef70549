"""Sums over risk sets, and over the factors of Efron's likelihood, without visiting each risk set."""

from dataclasses import dataclass

import numpy as np

from hourglass.core.arrays import BoolArray, FloatArray, IntArray
from hourglass.core.followup import FollowUp


@dataclass(frozen=True, slots=True)
class RiskSets:
    """Where each of n rows enters and leaves the risk sets of the K event times.

    A time with d events gives d factors (Efron 1977); factor l = 0 … d−1 has share l/d.

    Attributes:
        time: (K,) distinct event times; ``events``: (K,) d_j.
        happened: (n,) True where the row has the event; ``count``: (n,) rows each stands for.
        event_rows: rows with the event; ``event_time``: the index j of each one's time.
        factor_time: (D,) the index j of each factor; ``factor_share``: (D,) its l/d.
        exit_time: (n,) number of event times ≤ exit; ``entry_time``: the same for entry, or None.
    """

    time: FloatArray
    events: IntArray
    happened: BoolArray
    count: FloatArray
    event_rows: IntArray
    event_time: IntArray
    factor_time: IntArray
    factor_share: FloatArray
    exit_time: IntArray
    entry_time: IntArray | None
    _sequence: IntArray
    _sign: FloatArray | None
    _starts: IntArray

    def over_risk(self, values: FloatArray) -> FloatArray:
        """(K, …) sum of ``values`` (n, …) over each risk set, counts included.

        Rows are met from the last time to the first, added at exit and taken out at entry, so
        every partial sum is itself a risk set's sum and rounding stays relative to it.
        """
        met = (values.T * self.count).T[self._sequence]
        if self._sign is not None:
            met = (met.T * self._sign).T
        return np.cumsum(np.add.reduceat(met, self._starts, axis=0), axis=0)[::-1]

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

        A row with the event takes ``step − tied_step`` at its own time: under Efron it stands in
        the tied set with weight 1 − l/d.
        """
        running = np.concatenate([[0.0], np.cumsum(step)])
        total = running[self.exit_time]
        if self.entry_time is not None:
            total = total - running[self.entry_time]
        total[self.event_rows] -= tied_step[self.event_time]
        return total


def risk_sets(data: FollowUp) -> RiskSets:
    """Index the risk sets of status-1 events; O(n log n). There must be at least one event."""
    happened = data.event()
    event_rows = np.flatnonzero(happened)
    time, event_time = np.unique(data.exit[event_rows], return_inverse=True)
    events = np.bincount(event_time, weights=data.count[event_rows]).astype(np.int64)
    factor_time = np.repeat(np.arange(time.size), events)
    first = np.cumsum(events) - events
    factor_share = (np.arange(factor_time.size) - first[factor_time]) / events[factor_time]
    times, sequence, sign = data.exit, np.arange(data.exit.size), None
    if data.entry is not None:
        late = np.flatnonzero(np.isfinite(data.entry))
        times = np.concatenate([times, data.entry[late]])
        sign = np.concatenate([np.ones(data.exit.size), -np.ones(late.size)])
        sequence = np.concatenate([sequence, late])
    order = np.argsort(-times, kind="stable")
    up_to = np.searchsorted(-times[order], -time[::-1], side="right")
    order = order[: up_to[-1]]
    return RiskSets(
        time,
        events,
        happened,
        data.count.astype(np.float64),
        event_rows,
        event_time,
        factor_time,
        factor_share,
        np.searchsorted(time, data.exit, side="right"),
        None if data.entry is None else np.searchsorted(time, data.entry, side="right"),
        sequence[order],
        None if sign is None else sign[order],
        np.concatenate([[0], up_to[:-1]]),
    )

"""Sums over risk sets of columns that change from one event time to the next, while rows stay whole
(methods.md, section 4: Proportional hazards regression, "Time-varying effects")."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from hourglass.core.arrays import BoolArray, FloatArray, IntArray
from hourglass.core.regression.likelihood import (
    Likelihood,
    RiskMeans,
    cross_product,
    expected,
    less_squares_of_means,
    out_of_reach,
)
from hourglass.core.regression.risk_sets import RiskSets

PAIRS = 1 << 17
"""So many pairs of a row and an event time are taken at a time, so that they stay near the processor."""


@dataclass(frozen=True, slots=True, kw_only=True)
class EventTimeBlock:
    """Some event times of a stratum, with all m rows at risk at any of them.

    Attributes:
        start, end: the event times, from ``start`` on up to ``end``; ``rows``: the rows' places.
        leaving: so many of the first rows leave before the last of these times, ``left`` (leaving, times)
            states when they have.
        entering: rows, by their place among these, that enter after the first time; ``before``: when not yet.
        events: which of all rows with the event have it here; ``place``: these rows' places among the rows,
            ``time``: the place of their times.
    """

    start: int
    end: int
    rows: IntArray | slice
    leaving: int
    left: BoolArray
    entering: IntArray
    before: BoolArray
    events: slice
    place: IntArray
    time: IntArray

    def clear(self, values: FloatArray, empty: float) -> None:
        """Put ``empty`` into values (m, times) of rows that are not at risk."""
        values[: self.leaving][self.left] = empty
        if self.entering.size:
            own = values[self.entering]
            own[self.before] = empty
            values[self.entering] = own


@dataclass(frozen=True)
class ChangingRows:
    """Rows with q columns that are a value of the row times a factor of the event time.

    Attributes:
        sets: the risk sets of the n rows.
        x: (v, n) values in their order; ``source``: (q,) which value a column is made of.
        factor: (K, q) what it is multiplied with at each event time of the risk sets.
    """

    sets: RiskSets
    x: FloatArray
    source: IntArray
    factor: FloatArray

    @cached_property
    def functions(self) -> tuple[FloatArray, IntArray]:
        """(f, K) the distinct factors, and which of them each column (q,) has."""
        return np.unique(self.factor.T, axis=0, return_inverse=True)

    def effects(self, beta: FloatArray) -> FloatArray:
        """(v, K) what each value is multiplied with in the linear predictor, at coefficients (q,)."""
        found = np.zeros((self.x.shape[0], self.factor.shape[0]))
        np.add.at(found, self.source, (self.factor * beta).T)
        return found

    def at_events(self) -> FloatArray:
        """(q, E) the columns of the rows with the event, at their event times."""
        sets = self.sets
        values = self.x[:, sets.event_rows]
        return np.asarray(values[self.source] * self.factor[sets.event_time].T)

    def blocks(self) -> Iterator[EventTimeBlock]:
        """All event times with their risk sets, in order."""
        sets = self.sets
        for opens, closes in zip(sets.starts, sets.ends, strict=True):
            start = int(opens)
            while start < closes:
                low = int(np.searchsorted(sets.last, start))
                high = int(np.searchsorted(sets.last, closes - 1, side="right"))
                end = min(int(closes), start + max(PAIRS // max(high - low, 1), 1))
                yield self._block(start, end, low, high)
                start = end

    def _block(self, start: int, end: int, low: int, high: int) -> EventTimeBlock:
        sets, times = self.sets, np.arange(start, end)
        rows: IntArray | slice = slice(low, high)
        first, last = sets.first[rows], sets.last[rows]
        there = first < end
        if not there.all():
            rows = low + np.flatnonzero(there)
            first, last = first[there], last[there]
        leaving = int(np.searchsorted(last, end - 1))
        entering = np.flatnonzero(first > start)
        a, b = map(int, np.searchsorted(sets.event_time, (start, end)))
        place = sets.event_rows[a:b]
        place = place - low if isinstance(rows, slice) else np.searchsorted(rows, place)
        return EventTimeBlock(
            start=start,
            end=end,
            rows=rows,
            leaving=leaving,
            left=last[:leaving, None] < times,
            entering=entering,
            before=first[entering, None] > times,
            events=slice(a, b),
            place=place,
            time=sets.event_time[a:b] - start,
        )


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangingMeans(RiskMeans):
    """Weighted sums of the risk sets of changing columns.

    Attributes:
        largest: (K,) the largest linear predictor of each risk set, by whose exponential all sums of its
            scores are divided.
        own: (E,) the linear predictor of each row with the event, less that.
    """

    largest: FloatArray
    own: FloatArray


def changing_means(
    rows: ChangingRows,
    beta: FloatArray,
    weights: FloatArray | None = None,
    within: Callable[[float], None] = lambda share: None,
) -> tuple[ChangingMeans, FloatArray]:
    """The sums at coefficients (q,), and (k, q, q) Σ_j weight_j Σ_l Σ_R w r x xᵀ/φ_l.

    Args:
        weights: (k, K), for each of which the squares are summed; none where absent.
        within: given the share of the event times that are done; may raise to stop the work.
    """
    sets, size = rows.sets, rows.sets.time.size
    effects, (functions, of_column) = rows.effects(beta), rows.functions
    some = np.empty((0, size)) if weights is None else weights
    # A row's squares need only how often it counts with each product of two factors.
    products = (some[:, None, None] * functions[:, None] * functions).reshape(-1, size)
    counted = np.zeros((products.shape[0], sets.order.size))
    rest, tied, largest = np.empty(size), np.empty(size), np.empty(size)
    sums, of_tied = np.empty((2, rows.x.shape[0], size))
    own = np.empty(sets.event_rows.size)
    for block in rows.blocks():
        times, wide = slice(block.start, block.end), block.end - block.start
        x = rows.x[:, block.rows]
        score = x.T @ effects[:, times]
        block.clear(score, -np.inf)
        largest[times] = score.max(axis=0)
        score -= largest[times]
        own[block.events] = score[block.place, block.time]
        with np.errstate(under="ignore", invalid="ignore"):
            np.exp(score, out=score)
        score *= sets.count[block.rows, None]
        happened = score[block.place, block.time]
        score[block.place, block.time] = 0.0
        rest[times] = score.sum(axis=0)
        tied[times] = np.bincount(block.time, happened, wide)
        np.matmul(x, score, out=sums[:, times])
        for column, found in zip(x, of_tied, strict=True):
            found[times] = np.bincount(block.time, happened * column[block.place], wide)
        if products.size:
            over = sets.factors.between(block.start, block.end).sums(rest[times], tied[times])
            often = (products[:, times] * over.inverse) @ score.T
            dealt = (products[:, times] * over.kept)[:, block.time] * happened
            often[:, block.place] += dealt
            counted[:, block.rows] += often
        within(block.end / size)
    total, index = rest + tied, sets.factors.tied
    mean = ((sums + of_tied) / total)[rows.source] * rows.factor.T
    of_events = of_tied[rows.source][:, index] * rows.factor[index].T
    apart = (of_events - mean[:, index] * tied[index]) / total[index]
    m = ChangingMeans(
        rest=rest,
        tied=tied,
        sums=sets.factors.sums(rest, tied),
        mean=mean,
        apart=apart,
        largest=largest,
        own=own,
    )
    f = functions.shape[0]
    return m, _squares(rows, counted.reshape(some.shape[0], f, f, sets.order.size), of_column)


def _squares(rows: ChangingRows, counted: FloatArray, of_column: IntArray) -> FloatArray:
    """(k, q, q) from how often each row counts (k, f, f, n) with each product of two factors."""
    found = np.zeros((counted.shape[0], rows.source.size, rows.source.size))
    for squares, own in zip(found, counted, strict=True):
        for a, b in np.ndindex(own.shape[:2]):
            if a <= b:
                i, j = np.flatnonzero(of_column == a), np.flatnonzero(of_column == b)
                of_values = cross_product(rows.x, own[a, b])
                part = of_values[np.ix_(rows.source[i], rows.source[j])]
                squares[np.ix_(i, j)], squares[np.ix_(j, i)] = part, part.T
    return found


def changing_likelihood(
    rows: ChangingRows,
    seen: FloatArray,
    beta: FloatArray,
    within: Callable[[float], None] = lambda share: None,
) -> Likelihood:
    """The log partial likelihood at coefficients (q,); ``seen`` (q,) is Σ x over the events.

    Where a linear predictor is no number the value is −∞: a step too far.
    """
    sets = rows.sets
    if not np.isfinite(rows.effects(beta)).all():
        return out_of_reach(seen.size)
    m, (squares,) = changing_means(rows, beta, np.ones((1, sets.time.size)), within)
    value = float(sets.count[sets.event_rows] @ m.own - m.sums.log.sum())
    return Likelihood(value, seen - expected(sets, m), less_squares_of_means(squares, sets, m))

"""Effects that stay, or change over time
(methods.md, section 4: Proportional hazards regression, "Time-varying effects")."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Protocol

import numpy as np

from hourglass.core.arrays import FloatArray, IntArray
from hourglass.core.errors import NotEstimableError
from hourglass.core.followup import FollowUp
from hourglass.core.regression.problem import NO_EVENTS
from hourglass.core.regression.splitting import Pieces, split
from hourglass.core.regression.time_functions import TimeFunction


class Effect(Protocol):
    """What a column of a subject's values is multiplied with at each event time, once a coefficient."""

    def cuts(self, times: FloatArray) -> FloatArray:
        """Where rows must part, for event times (K,)."""
        ...

    def factors(self, data: FollowUp, times: FloatArray) -> FloatArray:
        """(K, c) the factors of its c coefficients at all event times.

        Raises:
            NotEstimableError: when one is not defined at an event.
        """
        ...


class Steady:
    """One coefficient throughout."""

    def cuts(self, times: FloatArray) -> FloatArray:
        return times[:0]

    def factors(self, data: FollowUp, times: FloatArray) -> FloatArray:
        return np.ones((times.size, 1))


@dataclass(frozen=True, slots=True)
class ByPeriod:
    """One coefficient a period: up to the first of ``ends`` (m,), ascending, …, after the last."""

    ends: tuple[float, ...]

    def cuts(self, times: FloatArray) -> FloatArray:
        return np.array(self.ends)

    def factors(self, data: FollowUp, times: FloatArray) -> FloatArray:
        period = np.searchsorted(np.array(self.ends), times, side="left")
        return np.asarray(period[:, None] == np.arange(len(self.ends) + 1), dtype=np.float64)


@dataclass(frozen=True, slots=True)
class AlongTime:
    """One coefficient throughout, and one of g(t) − g₀, g₀ the mean of g over the events, copies too."""

    function: TimeFunction

    def cuts(self, times: FloatArray) -> FloatArray:
        return times

    def factors(self, data: FollowUp, times: FloatArray) -> FloatArray:
        g = self.function.at(data, times)
        happened = data.event()
        place = np.searchsorted(times, data.exit[happened])
        centre = np.average(g[place], weights=data.count[happened])
        return np.column_stack([np.ones(times.size), g - centre])


STEADY = Steady()


@dataclass(frozen=True, slots=True)
class OverTime:
    """How the q columns of a model come from a subject's values: one value times a factor of time.

    Attributes:
        time: (K,) the distinct event times of all strata.
        source: (q,) which value a column is made of; ``factor``: (K, q).
        cuts: (c,) where rows must part for their columns to stay.
    """

    time: FloatArray
    source: IntArray
    factor: FloatArray
    cuts: FloatArray

    @property
    def steady(self) -> bool:
        """Whether every column is a value that stays."""
        return bool((self.factor == 1).all())

    def among(self, columns: IntArray) -> tuple[IntArray, "OverTime"]:
        """The values that some columns are made of, and how these columns come from them alone."""
        values, source = np.unique(self.source[columns], return_inverse=True)
        return values, replace(self, source=source, factor=self.factor[:, columns])

    def at(self, time: FloatArray) -> FloatArray:
        """(m, q) the factors at the last event time up to each of ``time`` (m,)."""
        place = np.searchsorted(self.time, time, side="right") - 1
        return self.factor[np.maximum(place, 0)]

    def profile(self, x: FloatArray, time: FloatArray) -> FloatArray:
        """(m, q) the columns at event times (m,) of a subject with values ``x`` (p,)."""
        return np.asarray(x[self.source] * self.at(time))

    def columns(self, x: FloatArray, pieces: Pieces) -> FloatArray:
        """(m, q) the columns of pieces of rows, from the values (n, p) of the rows.

        A piece that ends before the first event time, or holds none, is in no risk set.
        """
        return np.asarray(x[pieces.row][:, self.source] * self.at(pieces.data.exit))


@dataclass(frozen=True, slots=True)
class Parted:
    """What a model with changing effects may be fitted on: pieces of rows and their columns (m, q)."""

    pieces: Pieces
    x: FloatArray


def over_time(data: FollowUp, effects: Sequence[Effect]) -> OverTime:
    """The columns of a model whose p values have these effects, in turn.

    Raises:
        NotEstimableError: without events, or when a function of time is not defined at one.
    """
    times = np.unique(data.exit[data.event()])
    if not times.size:
        raise NotEstimableError(NO_EVENTS)
    factors = [effect.factors(data, times) for effect in effects]
    source = np.repeat(np.arange(len(effects)), [f.shape[1] for f in factors])
    cuts = np.unique(np.concatenate([effect.cuts(times) for effect in effects]))
    return OverTime(times, source, np.column_stack(factors), cuts)


def part(data: FollowUp, x: FloatArray, made: OverTime) -> Parted:
    """Rows parted where an effect changes, so that each risk set has values of its own.

    Args:
        x: (n, p) values of the rows; ``made``: how columns come from them.

    Raises:
        NotEstimableError: when that would make too many pieces.
    """
    pieces = split(data, made.cuts)
    return Parted(pieces, made.columns(x, pieces))

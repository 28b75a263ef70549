"""Sums over the d factors of an event time, at a cost that does not grow with d
(methods.md, section 2: Survival curve; section 4: Proportional hazards regression)."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from scipy.linalg import eigh_tridiagonal

from hourglass.core.arrays import FloatArray, IntArray

ONE_BY_ONE = 64
"""Up to so many factors are taken one by one."""
LAST = 32
"""The last factors, where little of the risk set may be left, are always taken one by one."""
NODES = 12


@dataclass(frozen=True, slots=True)
class FactorSums:
    """Sums over the factors of each of K event times, f the share that a factor φ leaves out.

    Attributes:
        log: (K,) Σ ln φ.
        inverse: (K,) Σ 1/φ; ``kept``: (K,) Σ (1 − f)/φ.
        left_out: (K,) Σ f T/φ, T the sum of all at risk; ``left_out_squared``: (K,) Σ f² T²/φ²: of one
            size whatever the scores are.
    """

    log: FloatArray
    inverse: FloatArray
    kept: FloatArray
    left_out: FloatArray
    left_out_squared: FloatArray


@dataclass(frozen=True, slots=True, kw_only=True)
class Factors:
    """The factors of K event times: d alike, or listed for the times that have several.

    Attributes:
        events: (K,) d, or how many factors a time has.
        tied: (T,) the times whose factors are listed; ``opens``: (T,) where each one's list begins.
        time: (L,) the place in ``tied``; ``share``: (L,) f, ``kept``: (L,) 1 − f; ``weight``: (L,)
            how many factors stand for it.
    """

    events: FloatArray
    tied: IntArray
    opens: IntArray
    time: IntArray
    share: FloatArray
    kept: FloatArray
    weight: FloatArray

    def sums(self, rest: FloatArray, events: FloatArray) -> FactorSums:
        """The sums, from Σ r over those at risk without the event (K,) and over those with it (K,)."""
        at_risk = rest + events
        with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
            found = FactorSums(
                self.events * np.log(at_risk),
                self.events / at_risk,
                self.events / at_risk,
                np.zeros(at_risk.size),
                np.zeros(at_risk.size),
            )
            if self.tied.size:
                total = at_risk[self.tied]
                phi = self.phi(rest, events) / total[self.time]
                part = self.weight / phi
                found.log[self.tied] += self._add(self.weight * np.log(phi))
                found.inverse[self.tied] = self._add(part) / total
                found.kept[self.tied] = self._add(self.kept * part) / total
                found.left_out[self.tied] = self._add(self.share * part)
                found.left_out_squared[self.tied] = self._add(self.share**2 * part / phi)
        return found

    def squares(self, rest: FloatArray, events: FloatArray) -> tuple[FloatArray, FloatArray]:
        """(K,) Σ 1/φ² and Σ f T/φ²; infinite where a square is too small to be a number."""
        at_risk = rest + events
        with np.errstate(divide="ignore", over="ignore"):
            whole, left_out = self.events / at_risk**2, np.zeros(rest.size)
            if self.tied.size:
                total = at_risk[self.tied]
                phi = self.phi(rest, events) / total[self.time]
                whole[self.tied] = self._add(self.weight / phi**2) / total**2
                left_out[self.tied] = self._add(self.share * self.weight / phi**2) / total
        return whole, left_out

    def between(self, start: int, end: int) -> "Factors":
        """The factors of the times from ``start`` on, up to ``end``."""
        first, last = np.searchsorted(self.tied, (start, end))
        bounds = np.append(self.opens, self.time.size)
        some = slice(bounds[first], bounds[last])
        return Factors(
            events=self.events[start:end],
            tied=self.tied[first:last] - start,
            opens=self.opens[first:last] - bounds[first],
            time=self.time[some] - first,
            share=self.share[some],
            kept=self.kept[some],
            weight=self.weight[some],
        )

    def phi(self, rest: FloatArray, events: FloatArray) -> FloatArray:
        """(L,) φ of each factor that is listed."""
        return np.asarray(rest[self.tied][self.time] + self.kept * events[self.tied][self.time])

    def _add(self, values: FloatArray) -> FloatArray:
        return np.add.reduceat(values, self.opens)


def whole_factors(events: FloatArray) -> Factors:
    """One factor for each event time, whole risk sets: no share of the tied events is left out."""
    nothing, no_share = np.empty(0, dtype=np.int64), np.empty(0)
    return Factors(
        events=events,
        tied=nothing,
        opens=nothing,
        time=nothing,
        share=no_share,
        kept=no_share,
        weight=no_share,
    )


def efron_factors(events: FloatArray) -> Factors:
    """Factors l = 0 … d − 1 that leave out l/d of the tied events."""
    tied = np.flatnonzero(events > 1)
    lists = [_listed(int(d)) for d in events[tied]]
    sizes = np.array([place.size for place, _ in lists], dtype=np.int64)
    time = np.repeat(np.arange(tied.size), sizes)
    place = np.concatenate([one for one, _ in lists]) if lists else np.empty(0)
    weight = np.concatenate([one for _, one in lists]) if lists else np.empty(0)
    opens = np.cumsum(sizes) - sizes
    d = events[tied][time]
    return Factors(
        events=events,
        tied=tied,
        opens=opens,
        time=time,
        share=place / d,
        kept=(d - place) / d,
        weight=weight,
    )


@lru_cache(maxsize=4096)
def _listed(d: int) -> tuple[FloatArray, FloatArray]:
    """Places l and weights with which a sum over l = 0 … d − 1 is taken.

    Up to the last few, l stands in blocks that double going back from the end, so that a factor's
    root is as far from a block as the block is long: there Gauss's rule for equal weights at whole
    numbers is exact to rounding.
    """
    if d <= ONE_BY_ONE:
        return np.arange(float(d)), np.ones(d)
    end = d - LAST
    places, weights = [np.arange(float(end), float(d))], [np.ones(LAST)]
    length = LAST
    while end > 0:
        length = min(length, end)
        place, weight = _rule(length)
        places.append(end - length + place)
        weights.append(weight)
        end, length = end - length, 2 * length
    return np.concatenate(places), np.concatenate(weights)


def _rule(m: int) -> tuple[FloatArray, FloatArray]:
    """Gauss's rule for the sum over 0 … m − 1, by the recurrence of its orthogonal polynomials."""
    if m <= NODES:
        return np.arange(float(m)), np.ones(m)
    k = np.arange(1.0, NODES)
    beside = k / 2 * np.sqrt((m - k) * (m + k) / (4 * k * k - 1))
    place, vectors = eigh_tridiagonal(np.full(NODES, (m - 1) / 2), beside)
    return np.asarray(place, dtype=np.float64), np.asarray(m * vectors[0] ** 2)

"""The partial likelihood with its score and information
(methods.md, section 4: Proportional hazards regression)."""

from dataclasses import dataclass

import numpy as np

from hourglass.core.arrays import FloatArray, IntArray
from hourglass.core.factors import FactorSums
from hourglass.core.regression.risk_sets import BLOCK, RiskSets

MIN_TOTAL_SCORE = 1e-280
"""A risk set whose scores sum to less, beside a largest score of 1, is out of floating point's reach."""


@dataclass(frozen=True, slots=True)
class RiskMeans:
    """Weighted sums of the risk sets at given coefficients, for p columns.

    Attributes:
        rest, tied: (K,) Σ w r of those at risk without the event, and with it.
        sums: sums over the factors.
        mean: (p, K) the mean of each column in each risk set.
        apart: (p, T) Σ_D w r (x − mean) as a share of Σ w r, at the times whose factors differ,
            ``factors.tied``.
    """

    rest: FloatArray
    tied: FloatArray
    sums: FactorSums
    mean: FloatArray
    apart: FloatArray


@dataclass(frozen=True, slots=True, kw_only=True)
class RiskMoments(RiskMeans):
    """The same of columns that stay.

    Attributes:
        linear: (n,) the linear predictor, less the largest of its stratum.
        score: (n,) w r, r the exponential of that; 0 for rows never at risk at an event time.
    """

    linear: FloatArray
    score: FloatArray

    @property
    def finite(self) -> bool:
        """Whether no row and no risk set is out of floating point's reach."""
        total = self.rest + self.tied
        within = np.isfinite(total).all() and (total > MIN_TOTAL_SCORE).all()
        return bool(within and np.isfinite(self.linear).all())


@dataclass(frozen=True, slots=True)
class Likelihood:
    """The log partial likelihood at given coefficients, its gradient (p,) and information (p, p)."""

    value: float
    gradient: FloatArray
    information: FloatArray


def relative_scores(sets: RiskSets, linear: FloatArray) -> tuple[FloatArray, FloatArray]:
    """(n,) the linear predictor less the largest of its stratum, and w r: 0 for rows never at risk."""
    with np.errstate(invalid="ignore", under="ignore", over="ignore"):
        linear = linear - _highest(sets, linear)
        score = np.exp(linear)
        score *= sets.count
    if sets.ever is not None:
        score[~sets.ever] = 0.0
    return linear, score


def moments(sets: RiskSets, x: FloatArray, linear: FloatArray) -> RiskMoments:
    """The sums of all risk sets, for columns ``x`` (p, n) and linear predictor (n,) in their order."""
    linear, score = relative_scores(sets, linear)
    rest, tied = sets.over(score)
    total, index = rest + tied, sets.factors.tied
    mean = np.empty((x.shape[0], total.size))
    apart = np.empty((x.shape[0], index.size))
    differ = sets.differences_hold(score, total)
    with np.errstate(divide="ignore", invalid="ignore"):
        for k, column in enumerate(x):
            of_rest, of_tied = sets.over(score * column, differ)
            np.divide(of_rest + of_tied, total, out=mean[k])
            apart[k] = (of_tied[index] - mean[k, index] * tied[index]) / total[index]
    return RiskMoments(
        rest=rest,
        tied=tied,
        sums=sets.factors.sums(rest, tied),
        mean=mean,
        apart=apart,
        linear=linear,
        score=score,
    )


def _highest(sets: RiskSets, linear: FloatArray) -> FloatArray | float:
    """The largest linear predictor of each row's stratum, among those ever at risk."""
    if sets.starts.size == 1:
        return float((linear if sets.ever is None else linear[sets.ever]).max())
    own = np.searchsorted(sets.starts, sets.last, side="right") - 1
    highest = np.full(sets.starts.size, -np.inf)
    ever = slice(None) if sets.ever is None else sets.ever
    np.maximum.at(highest, own[ever], linear[ever])
    return highest[own]


def likelihood(
    sets: RiskSets, x: FloatArray, seen: FloatArray, beta: FloatArray, offset: FloatArray
) -> Likelihood:
    """Evaluate at ``beta`` (p,), for columns (p, n) and offset (n,) in the order of the risk sets.

    ``seen`` (p,) is what :func:`seen_at_events` finds in the columns.

    Where the scores are too far apart for floating point the value is −∞: a step too far.
    """
    return likelihood_of(sets, x, seen, moments(sets, x, beta @ x + offset))


def likelihood_of(sets: RiskSets, x: FloatArray, seen: FloatArray, m: RiskMoments) -> Likelihood:
    """The same from the sums of the risk sets."""
    if not m.finite:
        return out_of_reach(seen.size)
    rows = sets.event_rows
    counts = sets.count[rows] * (sets.factors.events[sets.event_time] > 0)
    value = float(counts @ m.linear[rows] - m.sums.log.sum())
    return Likelihood(value, seen - expected(sets, m), information(sets, x, m))


def out_of_reach(columns: int) -> Likelihood:
    """What stands where scores are too far apart for floating point: a step too far."""
    return Likelihood(-np.inf, np.zeros(columns), np.zeros((columns, columns)))


def seen_at_events(sets: RiskSets, x: FloatArray) -> FloatArray:
    """(p,) Σ x over the events of columns (p, n)."""
    weight = sets.count[sets.event_rows]
    return np.array([weight @ column[sets.event_rows] for column in x])


def expected(sets: RiskSets, m: RiskMeans) -> FloatArray:
    """(p,) Σ_j Σ_l x̄_l."""
    return np.asarray(m.mean @ sets.factors.events - m.apart @ m.sums.left_out[sets.factors.tied])


def means_over_factors(sets: RiskSets, m: RiskMeans) -> FloatArray:
    """(p, K) Σ_l x̄_l at each event time."""
    found, index = m.mean * sets.factors.events, sets.factors.tied
    found[:, index] -= m.apart * m.sums.left_out[index]
    return found


def means_over_hazard(sets: RiskSets, m: RiskMeans) -> tuple[FloatArray, FloatArray]:
    """(p, K) Σ_l x̄_l/φ_l at each event time, and Σ_l (1 − f_l) x̄_l/φ_l: what a row with the event keeps."""
    index = sets.factors.tied
    _, left_out = sets.factors.squares(m.rest, m.tied)
    whole, kept = m.mean * m.sums.inverse, m.mean * m.sums.kept
    whole[:, index] -= m.apart * left_out[index]
    total = (m.rest + m.tied)[index]
    kept[:, index] -= m.apart * (left_out[index] - m.sums.left_out_squared[index] / total)
    return whole, kept


def information(
    sets: RiskSets, x: FloatArray, m: RiskMoments, weight: FloatArray | None = None
) -> FloatArray:
    """Σ_j weight_j V_j (p, p), V_j the covariance of the columns summed over the factors at t_j.

    With x̄_l = x̄ − f T/φ_l E, E what the tied events are apart from the mean as a share of T, the
    squares of the means need sums over the factors only, and the rows one weighted cross-product:
    never a matrix per risk set, nor a row of means per factor.
    """
    one: FloatArray | float = 1.0 if weight is None else weight
    rows = m.score * sets.while_at_risk(m.sums.inverse * one, m.sums.kept * one)
    return less_squares_of_means(cross_product(x, rows), sets, m, weight)


def less_squares_of_means(
    squares: FloatArray, sets: RiskSets, m: RiskMeans, weight: FloatArray | None = None
) -> FloatArray:
    """Squares (p, p) of the rows less Σ_j weight_j Σ_l x̄_l x̄_lᵀ."""
    one: FloatArray | float = 1.0 if weight is None else weight
    found = squares - cross_product(m.mean, sets.factors.events * one)
    index: IntArray = sets.factors.tied
    if index.size:
        mean, apart = m.mean[:, index], m.apart
        mixed = (mean * (m.sums.left_out * one)[index]) @ apart.T
        found += mixed + mixed.T
        found -= (apart * (m.sums.left_out_squared * one)[index]) @ apart.T
    return found


def cross_product(x: FloatArray, weight: FloatArray) -> FloatArray:
    """(p, p) Σ_i weight_i x_i x_iᵀ of columns (p, n); weights of either sign, block by block."""
    total = np.zeros((x.shape[0], x.shape[0]))
    for start in range(0, weight.size, BLOCK):
        part, own = x[:, start : start + BLOCK], weight[start : start + BLOCK]
        total += (part * own) @ part.T
    return total

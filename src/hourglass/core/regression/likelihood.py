"""Efron's partial likelihood with its score and information
(methods.md, section 4: Proportional hazards regression)."""

from dataclasses import dataclass

import numpy as np

from hourglass.core.arrays import FloatArray
from hourglass.core.regression.risk_sets import RiskSets

SMALLEST_TOTAL = 1e-280
"""A risk set whose scores sum to less, beside a largest score of 1, is out of floating point's reach."""


@dataclass(frozen=True, slots=True)
class RiskMoments:
    """Weighted sums of the risk sets at given coefficients.

    Attributes:
        score: (n,) r_i, divided by a common factor so that the largest is 1.
        total: (D,) φ_l; ``mean``: (D, p) x̄_l, one row a factor.
    """

    score: FloatArray
    total: FloatArray
    mean: FloatArray


@dataclass(frozen=True, slots=True)
class Likelihood:
    """The log partial likelihood at given coefficients, its gradient (p,) and information (p, p)."""

    value: float
    gradient: FloatArray
    information: FloatArray


def moments(sets: RiskSets, x: FloatArray, linear: FloatArray) -> RiskMoments:
    """φ_l and x̄_l of every factor, for columns ``x`` (n, p) and linear predictor (n,)."""
    with np.errstate(invalid="ignore", under="ignore"):
        r = np.exp(linear - linear.max())
    stacked = np.column_stack([r, x * r[:, None]])
    at_risk, tied = sets.over_risk(stacked), sets.over_events(stacked)
    factors = at_risk[sets.factor_time] - sets.factor_share[:, None] * tied[sets.factor_time]
    with np.errstate(divide="ignore", invalid="ignore"):
        return RiskMoments(r, factors[:, 0], factors[:, 1:] / factors[:, :1])


def likelihood(sets: RiskSets, x: FloatArray, beta: FloatArray, offset: FloatArray) -> Likelihood:
    """Evaluate at ``beta`` (p,); ``offset`` (n,) is added to the linear predictor.

    Where the scores are too far apart for floating point the value is −∞: a step too far.
    """
    linear = x @ beta + offset
    m = moments(sets, x, linear)
    if not (np.isfinite(linear).all() and (m.total > SMALLEST_TOTAL).all()):
        nowhere = np.zeros((beta.size, beta.size))
        return Likelihood(-np.inf, np.zeros(beta.size), nowhere)
    rows, weight = sets.event_rows, sets.count[sets.event_rows]
    value = float(weight @ (linear[rows] - linear.max()) - np.log(m.total).sum())
    gradient = x[rows].T @ weight - m.mean.sum(axis=0)
    return Likelihood(value, gradient, information(sets, x, m, np.ones(sets.time.size)))


def information(sets: RiskSets, x: FloatArray, m: RiskMoments, weight: FloatArray) -> FloatArray:
    """Σ_j weight_j V_j (p, p), V_j the covariance of the columns summed over the factors at t_j.

    One weighted cross-product of the rows less one of the means: never a matrix per risk set.
    """
    step = sets.over_factors(1 / m.total) * weight
    tied = sets.over_factors(sets.factor_share / m.total) * weight
    rows = sets.while_at_risk(step, tied) * m.score * sets.count
    mean = m.mean * weight[sets.factor_time, None]
    return (x * rows[:, None]).T @ x - mean.T @ m.mean

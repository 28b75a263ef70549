"""The score and information of one coefficient, event time by event time."""

from dataclasses import dataclass

import numpy as np

from hourglass.core.arrays import FloatArray, IntArray
from hourglass.core.followup import FollowUp
from hourglass.core.regression.fitted import HazardsFit
from hourglass.core.regression.likelihood import means_over_factors, moments
from hourglass.core.regression.risk_sets import RiskSets, risk_sets


@dataclass(frozen=True, slots=True, kw_only=True)
class ScoreTerms:
    """What each of K event times adds to the score and the information of one column.

    Attributes:
        time, events, at_risk: (K,) event times with d_j and n_j.
        sum: (K,) Σ x over the events; ``mean``: (K,) x̄, the mean over the factors.
        score: (K,) sum − Σ_l x̄_l; ``information``: (K,) Σ_l of the variance of x among those at risk.
    """

    time: FloatArray
    events: IntArray
    at_risk: IntArray
    sum: FloatArray
    mean: FloatArray
    score: FloatArray
    information: FloatArray


def score_terms(data: FollowUp, x: FloatArray, fitted: HazardsFit, column: int) -> ScoreTerms:
    """Terms of one column of ``x`` (n, p) at the fitted coefficients
    (methods.md, section 4: Proportional hazards regression)."""
    sets = risk_sets(data, fitted.ties, fitted.stratum)
    # About the median one far value leaves the squares of all others their digits.
    origin = float(np.median(x[:, column]))
    values = sets.ordered(x[:, column] - origin)
    m = moments(sets, np.array([values, values**2]), sets.ordered(fitted.linear))
    means, squares = means_over_factors(sets, m)
    mean, apart, tied = m.mean[0], m.apart[0], sets.factors.tied
    square_of_means = sets.events * mean**2
    square_of_means[tied] += apart * (
        m.sums.left_out_squared[tied] * apart - 2 * m.sums.left_out[tied] * mean[tied]
    )
    return terms_of_means(sets, values, origin, means, squares - square_of_means)


def terms_of_means(
    sets: RiskSets, values: FloatArray, origin: float, means: FloatArray, information: FloatArray
) -> ScoreTerms:
    """The terms of a column from d x̄ and the information (K,) of each event time.

    Args:
        values: (n,) the column less ``origin``, in the order of the risk sets, as are its ``means``.
    """
    total = sets.over_events(values * sets.count)
    return ScoreTerms(
        time=sets.time,
        events=sets.events.astype(np.int64),
        at_risk=np.add(*sets.over(sets.count)).astype(np.int64),
        sum=total + sets.events * origin,
        mean=means / sets.events + origin,
        score=total - means,
        information=information,
    )


def information_terms(data: FollowUp, x: FloatArray, fitted: HazardsFit, column: int) -> FloatArray:
    """(K, p) Σ_l of the covariance of one column of ``x`` (n, p) with each, at each event time; columns
    that were left out as aliased have a place like any other
    (methods.md, section 6: Residuals and checks, "V_j")."""
    sets = risk_sets(data, fitted.ties, fitted.stratum)
    linear = sets.ordered(fitted.linear)
    own = sets.ordered(x[:, column] - np.median(x[:, column]))
    found = np.empty((sets.time.size, x.shape[1]))
    tied = sets.factors.tied
    for k in range(x.shape[1]):
        other = sets.ordered(x[:, k] - np.median(x[:, k]))
        m = moments(sets, np.array([own, other, own * other]), linear)
        products = means_over_factors(sets, m)[2]
        (a, b, _), (apart_a, apart_b, _) = m.mean, m.apart
        of_means = sets.events * a * b
        of_means[tied] += m.sums.left_out_squared[tied] * apart_a * apart_b
        of_means[tied] -= m.sums.left_out[tied] * (apart_a * b[tied] + apart_b * a[tied])
        found[:, k] = products - of_means
    return found

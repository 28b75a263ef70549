"""The score and information of one coefficient, event time by event time."""

from dataclasses import dataclass

import numpy as np

from hourglass.core.arrays import FloatArray, IntArray
from hourglass.core.followup import FollowUp
from hourglass.core.regression.fitted import HazardsFit
from hourglass.core.regression.likelihood import means_over_factors, moments
from hourglass.core.regression.risk_sets import risk_sets


@dataclass(frozen=True, slots=True)
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
    total = sets.over_events(values * sets.count)
    return ScoreTerms(
        sets.time,
        sets.events.astype(np.int64),
        np.add(*sets.over(sets.count)).astype(np.int64),
        total + sets.events * origin,
        means / sets.events + origin,
        total - means,
        squares - square_of_means,
    )

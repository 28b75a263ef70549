"""The score and information of one coefficient, event time by event time."""

from dataclasses import dataclass

import numpy as np

from hourglass.core.arrays import FloatArray, IntArray
from hourglass.core.followup import FollowUp
from hourglass.core.regression.fit import HazardsFit
from hourglass.core.regression.likelihood import moments
from hourglass.core.regression.risk_sets import risk_sets
from hourglass.core.risk_table import number_at_risk


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
    sets = risk_sets(data, fitted.ties)
    origin = float(x[:, column].mean())
    values = x[:, column] - origin  # centred, so that squares keep their digits
    m = moments(sets, np.column_stack([values, values**2]), fitted.linear)
    means = sets.over_factors(m.mean[:, 0])
    total = sets.over_events(values)
    return ScoreTerms(
        sets.time,
        sets.events,
        number_at_risk(data, sets.time),
        total + sets.events * origin,
        means / sets.events + origin,
        total - means,
        sets.over_factors(m.mean[:, 1] - m.mean[:, 0] ** 2),
    )

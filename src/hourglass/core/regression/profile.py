"""Intervals by profile likelihood, and the finite end of a runaway coefficient's
(methods.md, section 4: Proportional hazards regression)."""

from collections.abc import Callable

import numpy as np
from scipy.optimize import brentq

from hourglass.core.arrays import FloatArray
from hourglass.core.errors import NotEstimableError
from hourglass.core.followup import FollowUp
from hourglass.core.normal import normal_quantile
from hourglass.core.regression.fitted import HazardsFit
from hourglass.core.regression.supremum import highest_values

WIDEST_SEARCH = 500.0
"""Units of linear predictor, across the column's range, beyond which no limit is looked for."""
FARTHEST = 64.0
"""Times z standard errors, beyond which an end of an interval is infinite."""
STEP = 2.0
"""The first step, in the same units; each further one is twice as long."""


def finite_limit(
    data: FollowUp, x: FloatArray, fitted: HazardsFit, column: int, confidence: float = 0.95
) -> float | None:
    """The limit of ``beta[column]`` on its finite side; None where none is found within reach.

    Args:
        data, x: what was fitted, n rows by p columns.
        fitted: the fit in which the column runs to ±∞.
        column: its position.
        confidence: the interval's level.
    """
    towards = 1.0 if fitted.status[column] == "to +infinity" else -1.0
    drop = normal_quantile(confidence) ** 2 / 2
    scale = float(np.ptp(x[:, column])) or 1.0
    try:
        profile = _profile(data, x, fitted, column)

        def excess(scaled: float) -> float:
            return fitted.value - profile(scaled / scale) - drop

        ends = _bracket(excess, towards)
        if ends is None:
            return None
        return float(brentq(excess, *ends, xtol=1e-12, rtol=1e-12)) / scale
    except NotEstimableError:
        return None


def profile_interval(
    data: FollowUp, x: FloatArray, fitted: HazardsFit, column: int, confidence: float = 0.95
) -> tuple[float, float]:
    """{b : 2 (ℓ(β̂) − ℓ_p(b)) ≤ z²} of a finite coefficient, ℓ_p the maximum over all others.

    An end that is not met within 64 times z standard errors is infinite.

    Raises:
        NotEstimableError: when the coefficient has no finite estimate, or a search does not settle.
    """
    if fitted.status[column] != "finite":
        raise NotEstimableError("the coefficient has no finite estimate")
    beta, error = float(fitted.beta[column]), float(fitted.standard_error[column])
    profile = _profile(data, x, fitted, column)
    return profile_ends(profile, beta, error, fitted.value, confidence)


def profile_ends(
    height: Callable[[float], float], beta: float, error: float, top: float, confidence: float
) -> tuple[float, float]:
    """Where a profile has fallen by z²/2 from its ``top`` at ``beta``, to 1e-10 standard errors."""
    z = normal_quantile(confidence)

    def excess(b: float) -> float:
        return top - height(b) - z * z / 2

    ends = []
    for way in (-1.0, 1.0):
        within, reach = beta, z * error
        while reach <= FARTHEST * z * error and excess(beta + way * reach) < 0:
            within, reach = beta + way * reach, 2 * reach
        if reach > FARTHEST * z * error:
            ends.append(way * np.inf)
        else:
            low, high = sorted((within, beta + way * reach))
            ends.append(float(brentq(excess, low, high, xtol=1e-11 * error, rtol=1e-15)))
    return ends[0], ends[1]


def _profile(
    data: FollowUp, x: FloatArray, fitted: HazardsFit, column: int
) -> Callable[[float], float]:
    """The supremum over the other coefficients, with this one held."""
    others = np.array(
        [k for k, f in enumerate(fitted.status) if k != column and f != "aliased"], dtype=np.int64
    )
    highest = highest_values(data, x[:, others], fitted.ties, fitted.stratum)
    centred = x[:, column] - x[:, column].mean()
    return lambda b: highest(fitted.offset + centred * b)


def _bracket(excess: Callable[[float], float], towards: float) -> tuple[float, float] | None:
    """Two neighbouring steps between which ``excess`` falls through 0 on the way to infinity."""
    at, step = 0.0, STEP
    way = towards if excess(at) >= 0 else -towards
    while abs(at) < WIDEST_SEARCH:
        beyond = at + step * way
        if (excess(beyond) >= 0) != (way == towards):
            return at, beyond
        at, step = beyond, 2 * step
    return None

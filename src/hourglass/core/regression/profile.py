"""The finite end of a runaway coefficient's interval, by profile likelihood
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
    towards = 1.0 if fitted.fate[column] == "to +infinity" else -1.0
    others = np.array(
        [k for k, f in enumerate(fitted.fate) if k != column and f != "aliased"], dtype=np.int64
    )
    drop = normal_quantile(confidence) ** 2 / 2
    scale = float(np.ptp(x[:, column])) or 1.0

    try:
        highest = highest_values(data, x[:, others], fitted.ties, fitted.stratum)

        def excess(scaled: float) -> float:
            offset = x[:, column] * (scaled / scale)
            return fitted.value - highest(offset - offset.mean()) - drop

        ends = _bracket(excess, towards)
        if ends is None:
            return None
        return float(brentq(excess, *ends, xtol=1e-12, rtol=1e-12)) / scale
    except NotEstimableError:
        return None


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

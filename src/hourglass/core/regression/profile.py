"""The finite end of a runaway coefficient's interval, by profile likelihood (methods.md, section 4)."""

import numpy as np
from scipy.optimize import brentq

from hourglass.core.arrays import FloatArray
from hourglass.core.followup import FollowUp
from hourglass.core.regression.fit import HazardsFit, NotEstimableError, fit
from hourglass.core.survival import normal_quantile

WIDEST_SEARCH = 60.0


def finite_limit(
    data: FollowUp, x: FloatArray, fitted: HazardsFit, column: int, level: float = 0.95
) -> float | None:
    """The limit of ``beta[column]`` on its finite side; None where the likelihood never falls enough.

    Args:
        data, x: what was fitted, n rows by p columns.
        fitted: the fit in which the column runs to ±∞.
        column: its position.
        level: the interval's level.
    """
    towards = 1.0 if fitted.fate[column] == "to +infinity" else -1.0
    others = np.array(
        [k for k, f in enumerate(fitted.fate) if k != column and f != "aliased"], dtype=np.int64
    )
    drop = normal_quantile(level) ** 2 / 2
    scale = float(np.std(x[:, column])) or 1.0

    def excess(scaled: float) -> float:
        offset = x[:, column] * (scaled / scale)
        at = fit(data, x[:, others], offset - offset.mean()).value
        return fitted.value - at - drop

    high, low = 20.0 * towards, 0.0
    try:
        while excess(low) < 0:
            low = low - 5.0 * towards
            if abs(low) > WIDEST_SEARCH:
                return None
        return float(brentq(excess, low, high, xtol=1e-12, rtol=1e-12)) / scale
    except NotEstimableError:
        return None

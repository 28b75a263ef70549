"""Differences between two curves, and whether they cross
(methods.md, section 2: Survival curve; section 3: Comparing groups)."""

from dataclasses import dataclass

import numpy as np

from hourglass.core.arrays import FloatArray
from hourglass.core.curves.survival import SurvivalCurve
from hourglass.core.followup import FollowUp
from hourglass.core.normal import normal_quantile
from hourglass.core.risk_table import number_at_risk


@dataclass(frozen=True, slots=True, kw_only=True)
class CurveDifference:
    """Difference B − A of two independent curves over the event times of either, up to the earlier end.

    Attributes:
        time: (m,) times, ascending.
        difference, lower, upper: (m,) S_B − S_A with the plain interval; limits NaN once either S is 0.
        band_low, band_high: (m,) the difference band: centred on the curves' midpoint, half as
            high as the interval. It covers both curves exactly when the interval contains 0.
    """

    time: FloatArray
    difference: FloatArray
    lower: FloatArray
    upper: FloatArray
    band_low: FloatArray
    band_high: FloatArray


def curve_difference(a: SurvivalCurve, b: SurvivalCurve) -> CurveDifference:
    """Difference and difference band of two independent curves
    (methods.md, section 2: Survival curve)."""
    end = min(a.table.last, b.table.last)
    time = np.unique(np.concatenate([[0.0], a.table.time, b.table.time]))
    time = time[time <= end]
    (s_a, var_a), (s_b, var_b) = _step_values(a, time), _step_values(b, time)
    half = normal_quantile(a.confidence) * np.sqrt(var_a + var_b)
    middle, difference = (s_a + s_b) / 2, s_b - s_a
    return CurveDifference(
        time=time,
        difference=difference,
        lower=difference - half,
        upper=difference + half,
        band_low=middle - half / 2,
        band_high=middle + half / 2,
    )


def _step_values(curve: SurvivalCurve, time: FloatArray) -> tuple[FloatArray, FloatArray]:
    j = np.searchsorted(curve.table.time, time, side="right")
    survival = np.concatenate([[1.0], curve.survival])[j]
    sigma2 = np.concatenate([[0.0], curve.sigma2])[j]
    return survival, survival**2 * sigma2


CROSSING = 2.81
"""Standard errors by which one curve must lie above and, at another time, below the other."""
MIN_AT_RISK = 10


@dataclass(frozen=True, slots=True)
class Crossing:
    """The first times at which curve B lies above curve A, and below it, by more than chance."""

    above: float
    below: float


def crossing(
    data_a: FollowUp, data_b: FollowUp, a: SurvivalCurve, b: SurvivalCurve
) -> Crossing | None:
    """Whether the curves of two groups cross (methods.md, section 3: Comparing groups).

    They do when, over the event times of either with at least 10 at risk in both, neither curve at 0
    and not both at 1, their difference is at least 2.81 standard errors above 0 at one time and as
    far below it at another.
    """
    time = np.union1d(a.table.time, b.table.time)
    (s_a, var_a), (s_b, var_b) = _step_values(a, time), _step_values(b, time)
    enough = (number_at_risk(data_a, time) >= MIN_AT_RISK) & (
        number_at_risk(data_b, time) >= MIN_AT_RISK
    )
    counts = enough & (s_a > 0) & (s_b > 0) & ~((s_a == 1) & (s_b == 1))
    apart = (s_b - s_a)[counts] / np.sqrt((var_a + var_b)[counts])
    above, below = time[counts][apart >= CROSSING], time[counts][apart <= -CROSSING]
    return Crossing(float(above[0]), float(below[0])) if above.size and below.size else None

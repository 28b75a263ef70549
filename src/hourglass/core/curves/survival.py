"""The survival curve with its pointwise interval (methods.md, section 2: Survival curve)."""

from dataclasses import dataclass

import numpy as np
from scipy.special import ndtri

from hourglass.core.arrays import FloatArray
from hourglass.core.curves.estimators import PRODUCT_LIMIT, Estimator
from hourglass.core.curves.scales import LOG_LOG, IntervalScale, interval
from hourglass.core.risk_table import RiskTable


@dataclass(frozen=True, slots=True)
class SurvivalCurve:
    """An estimate of survival at the K distinct event times.

    Attributes:
        table: numbers at risk and events.
        survival: (K,) S(t_j).
        sigma2: (K,) σ², so that Var S = S² σ²; NaN once S is 0.
        lower, upper: (K,) pointwise interval; NaN once S is 0, where there is none.
        confidence: the interval's level, 1 − α.
    """

    table: RiskTable
    survival: FloatArray
    sigma2: FloatArray
    lower: FloatArray
    upper: FloatArray
    confidence: float

    def at(self, t: float) -> "SurvivalAt | None":
        """S and its interval at time t; None past the largest observed time, or before 0."""
        if not 0 <= t <= self.table.last:
            return None
        j = int(np.searchsorted(self.table.time, t, side="right")) - 1
        if j < 0:
            return SurvivalAt(1.0, 1.0, 1.0, 0.0, 0)
        events = int(self.table.events[: j + 1].sum())
        return SurvivalAt(
            float(self.survival[j]),
            _number(self.lower[j]),
            _number(self.upper[j]),
            _number(self.sigma2[j]),
            events,
        )


@dataclass(frozen=True, slots=True)
class SurvivalAt:
    """The curve read at one time; an absent limit means there is no interval (S = 0)."""

    survival: float
    lower: float | None
    upper: float | None
    sigma2: float | None
    events: int


def normal_quantile(confidence: float) -> float:
    """z = Φ⁻¹(1 − α/2) for an interval of level 1 − α."""
    return float(ndtri(1 - (1 - confidence) / 2))


def survival_curve(
    table: RiskTable,
    confidence: float = 0.95,
    estimator: Estimator = PRODUCT_LIMIT,
    scale: IntervalScale = LOG_LOG,
) -> SurvivalCurve:
    """Estimate survival from a risk table (methods.md, section 2: Survival curve).

    Args:
        confidence: of the pointwise interval, 1 − α.
        estimator, scale: how S is estimated, and the scale of its interval.
    """
    n, d = table.at_risk.astype(np.float64), table.events.astype(np.float64)
    survival = estimator.survival(n, d)
    sigma2 = np.where(survival > 0, estimator.sigma2(n, d), np.nan)
    lower, upper = interval(survival, sigma2, normal_quantile(confidence), scale)
    return SurvivalCurve(table, survival, sigma2, lower, upper, confidence)


def _number(value: float) -> float | None:
    return float(value) if np.isfinite(value) else None

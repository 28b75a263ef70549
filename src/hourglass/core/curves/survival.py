"""The survival curve with its pointwise interval (methods.md, section 2: Survival curve)."""

import math
from dataclasses import dataclass

import numpy as np

from hourglass.core.arrays import FloatArray
from hourglass.core.curves.estimators import PRODUCT_LIMIT, Estimator
from hourglass.core.curves.scales import LOG_LOG, IntervalScale, interval
from hourglass.core.errors import NotEstimableError
from hourglass.core.normal import normal_quantile
from hourglass.core.risk_table import RiskTable


@dataclass(frozen=True, slots=True, kw_only=True)
class SurvivalCurve:
    """An estimate of survival at the K distinct event times.

    Attributes:
        table: numbers at risk and events.
        survival: (K,) S(t_j).
        sigma2: (K,) σ², so that Var S = S² σ²; NaN once S is 0.
        steps: (K,) what each event time adds to σ².
        lower, upper: (K,) pointwise interval; NaN once S is 0, where there is none.
        confidence: the interval's level, 1 − α.
    """

    table: RiskTable
    survival: FloatArray
    sigma2: FloatArray
    steps: FloatArray
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
        return SurvivalAt(
            float(self.survival[j]),
            _number(self.lower[j]),
            _number(self.upper[j]),
            _number(self.sigma2[j]),
            int(self.table.events[: j + 1].sum()),
        )


@dataclass(frozen=True, slots=True)
class SurvivalAt:
    """The curve read at one time; an absent limit means there is no interval (S = 0)."""

    survival: float
    lower: float | None
    upper: float | None
    sigma2: float | None
    events: int

    @property
    def standard_error(self) -> float | None:
        """√Var S; None once S is 0."""
        return None if self.sigma2 is None else self.survival * math.sqrt(self.sigma2)

    @property
    def bars(self) -> tuple[float, float] | None:
        """S ± 1 standard error, held to [0, 1]: no interval; None once S is 0."""
        error = self.standard_error
        if error is None:
            return None
        return max(self.survival - error, 0.0), min(self.survival + error, 1.0)


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
    steps = estimator.steps(n, d)
    sigma2 = np.where(survival > 0, np.cumsum(steps), np.nan)
    lower, upper = interval(survival, normal_quantile(confidence) * np.sqrt(sigma2), scale)
    return SurvivalCurve(
        table=table,
        survival=survival,
        sigma2=sigma2,
        steps=steps,
        lower=lower,
        upper=upper,
        confidence=confidence,
    )


def after(
    table: RiskTable,
    start: float,
    confidence: float = 0.95,
    estimator: Estimator = PRODUCT_LIMIT,
    scale: IntervalScale = LOG_LOG,
) -> SurvivalCurve:
    """Survival of those free of the event at ``start``: S(t)/S(start), σ² summed from there.

    It is the curve of the rows that are followed beyond ``start``, entries put at it at least.

    Raises:
        NotEstimableError: when S is 0 by then, or nobody is followed beyond it.
    """
    gone = table.time <= start
    if start >= table.last:
        raise NotEstimableError("nobody is followed beyond that time")
    n, d = table.at_risk[gone].astype(np.float64), table.events[gone].astype(np.float64)
    if gone.any() and estimator.survival(n, d)[-1] == 0:
        raise NotEstimableError("survival is 0 by that time")
    left = RiskTable(table.time[~gone], table.at_risk[~gone], table.events[~gone], table.last)
    return survival_curve(left, confidence, estimator, scale)


def _number(value: float) -> float | None:
    return float(value) if np.isfinite(value) else None

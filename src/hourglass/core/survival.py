"""The survival curve, its pointwise interval and its quantiles
(methods.md, section 2: Survival curve)."""

from dataclasses import dataclass
from typing import Literal

import numpy as np
from scipy.special import ndtri

from hourglass.core.arrays import FloatArray
from hourglass.core.followup import FollowUp
from hourglass.core.risk_table import RiskTable, risk_table

QUANTILE_TOLERANCE = 1e-12


@dataclass(frozen=True, slots=True)
class SurvivalCurve:
    """Kaplan & Meier (1958) with Greenwood's (1926) variance, at the K distinct event times.

    Attributes:
        table: numbers at risk and events.
        survival: (K,) S(t_j).
        sigma2: (K,) Σ d/(n(n−d)), so that Var S = S² σ²; NaN once S is 0.
        lower, upper: (K,) pointwise interval on the log–log scale (Borgan & Liestøl 1990);
            NaN once S is 0, where there is none.
        level: the interval's level, 1 − α.
    """

    table: RiskTable
    survival: FloatArray
    sigma2: FloatArray
    lower: FloatArray
    upper: FloatArray
    level: float

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


@dataclass(frozen=True, slots=True)
class Quantile:
    """A quantile of the time to the event; an absent time or limit is "not reached".

    ``rule`` says how the time was found: the first time the curve is at or under 1 − q, or the
    midpoint of a step on which it equals 1 − q.
    """

    q: float
    time: float | None
    lower: float | None
    upper: float | None
    rule: Literal["first", "midpoint", "not reached"]


def normal_quantile(level: float) -> float:
    """z = Φ⁻¹(1 − α/2) for an interval of level 1 − α."""
    return float(ndtri(1 - (1 - level) / 2))


def survival_curve(table: RiskTable, level: float = 0.95) -> SurvivalCurve:
    """Estimate survival from a risk table (methods.md, section 2: Survival curve)."""
    n, d = table.at_risk.astype(np.float64), table.events.astype(np.float64)
    survival = np.cumprod((n - d) / n, dtype=np.float64)
    alive = survival > 0
    with np.errstate(divide="ignore", invalid="ignore"):
        sigma2 = np.where(alive, np.cumsum(np.where(n > d, d / (n * (n - d)), np.inf)), np.nan)
    lower, upper = _log_log_interval(survival, sigma2, normal_quantile(level))
    return SurvivalCurve(table, survival, sigma2, lower, upper, level)


def _log_log_interval(
    survival: FloatArray, sigma2: FloatArray, z: float
) -> tuple[FloatArray, FloatArray]:
    lower, upper = np.full_like(survival, np.nan), np.full_like(survival, np.nan)
    has = survival > 0
    s = survival[has]
    stretch = z * np.sqrt(sigma2[has]) / np.log(s)
    lower[has], upper[has] = s ** np.exp(-stretch), s ** np.exp(stretch)
    return np.clip(lower, 0, 1), np.clip(upper, 0, 1)


def quantile(curve: SurvivalCurve, q: float) -> Quantile:
    """The time by which a share q has had the event, interval by inversion (Brookmeyer & Crowley 1982)."""
    target = 1 - q
    time, survival = curve.table.time, curve.survival
    lower, upper = _first(curve.lower <= target, time), _first(curve.upper <= target, time)
    reached = np.flatnonzero(survival <= target + QUANTILE_TOLERANCE)
    if reached.size == 0:
        return Quantile(q, None, lower, upper, "not reached")
    j = int(reached[0])
    on_step = abs(survival[j] - target) <= QUANTILE_TOLERANCE and j + 1 < time.size
    if on_step:
        return Quantile(q, float((time[j] + time[j + 1]) / 2), lower, upper, "midpoint")
    return Quantile(q, float(time[j]), lower, upper, "first")


def median_follow_up(data: FollowUp) -> Quantile:
    """Median of the curve in which the end of a last row with status 0 is the event.

    Every other end of a row, be it an event or the beginning of the subject's next row, is a
    censoring (Schemper & Smith 1996).
    """
    return quantile(survival_curve(risk_table(data, data.event(0) & data.last_rows)), 0.5)


def _first(met: np.ndarray, time: FloatArray) -> float | None:
    where = np.flatnonzero(met)
    return float(time[where[0]]) if where.size else None


def _number(value: float) -> float | None:
    return float(value) if np.isfinite(value) else None

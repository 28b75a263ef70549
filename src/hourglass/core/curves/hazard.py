"""The cumulative hazard with its interval, and the hazard itself, smoothed
(methods.md, section 2: Survival curve)."""

from dataclasses import dataclass

import numpy as np

from hourglass.core.arrays import FloatArray
from hourglass.core.curves.estimators import TIES_TOGETHER, Hazard
from hourglass.core.errors import NotEstimableError
from hourglass.core.followup import FollowUp
from hourglass.core.normal import normal_quantile
from hourglass.core.risk_table import RiskTable, risk_table


@dataclass(frozen=True, slots=True)
class CumulativeHazard:
    """H at the K event times, with its variance and the interval H exp(± z √Var H / H)."""

    time: FloatArray
    value: FloatArray
    variance: FloatArray
    lower: FloatArray
    upper: FloatArray


def cumulative_hazard(
    table: RiskTable, confidence: float = 0.95, hazard: Hazard = TIES_TOGETHER
) -> CumulativeHazard:
    """The Nelson–Aalen estimate: no share of people, and it may pass 1."""
    n, d = table.at_risk.astype(np.float64), table.events.astype(np.float64)
    value = np.cumsum(hazard.steps(n, d))
    variance = np.cumsum(hazard.variance_steps(n, d))
    stretch = np.exp(normal_quantile(confidence) * np.sqrt(variance) / value)
    return CumulativeHazard(table.time, value, variance, value / stretch, value * stretch)


@dataclass(frozen=True, slots=True)
class SmoothedHazard:
    """The hazard at (m,) times, smoothed over ``bandwidth`` to either side."""

    time: FloatArray
    value: FloatArray
    bandwidth: float


def smoothed_hazard(
    data: FollowUp, at: FloatArray, bandwidth: float | None = None
) -> SmoothedHazard:
    """Σ_j K((t − t_j)/b) ΔH_j / b, the kernel mended at both ends (Müller & Wang 1994).

    Args:
        data: the follow-up of n rows.
        at: (m,) times between the first entry (or 0) and the largest observed time.
        bandwidth: b, up to half of that range; a sixth when absent.

    Raises:
        NotEstimableError: without a range to smooth over, with a bandwidth beyond half of it, or where
            a rate is too large for a number.
        ValueError: for a time outside the range.
    """
    table = risk_table(data)
    first = 0.0 if data.entry is None else max(float(data.entry.min()), 0.0)
    last = table.last
    width = last - first
    b = width / 6 if bandwidth is None else bandwidth
    if not width > 0:
        raise NotEstimableError("all follow-up ends where it starts, so no hazard can be smoothed")
    if not 0 < b <= width / 2:
        raise NotEstimableError("the bandwidth must be above 0 and at most half the range")
    if ((at < first) | (at > last)).any():
        raise ValueError("a hazard is smoothed within the range of follow-up only")
    jumps = table.events / table.at_risk
    low = np.searchsorted(table.time, at - b, side="left")
    high = np.searchsorted(table.time, at + b, side="right")
    value = np.zeros(at.size)
    for k, t in enumerate(at.tolist()):
        z = (t - table.time[low[k] : high[k]]) / b
        kernel = _kernel(z, (t - first) / b, (last - t) / b)
        with np.errstate(over="ignore"):
            value[k] = kernel @ jumps[low[k] : high[k]] / b
    if not np.isfinite(value).all():
        raise NotEstimableError("the times are so small that a rate per unit has no number")
    return SmoothedHazard(at, np.maximum(value, 0.0), b)


def _kernel(z: FloatArray, left: float, right: float) -> FloatArray:
    """K at z in [−1, 1], with ``left`` and ``right`` the distances to the ends in bandwidths."""
    if left < 1:
        return _at_end(z, left)
    if right < 1:
        return _at_end(-z, right)
    return np.where(np.abs(z) <= 1, 0.75 * (1 - z * z), 0.0)


def _at_end(z: FloatArray, q: float) -> FloatArray:
    inner = z * (1 - 2 * q) + (3 * q * q - 2 * q + 1) / 2
    return np.where((z >= -1) & (z <= q), 12 / (1 + q) ** 4 * (z + 1) * inner, 0.0)

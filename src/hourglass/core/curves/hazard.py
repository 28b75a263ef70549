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

BLOCK = 512
"""Event times that are summed up together where a window holds them all."""


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
    blocks = _Blocks(table.time, jumps, b)
    value = np.zeros(at.size)
    for k, t in enumerate(at.tolist()):
        left, right = (t - first) / b, (last - t) / b
        within, inside = blocks.within(int(low[k]), int(high[k]))
        total = blocks.sum(within, t, _powers(left, right))
        for part in inside:
            total += float(_kernel((t - table.time[part]) / b, left, right) @ jumps[part])
        with np.errstate(over="ignore"):
            value[k] = np.float64(total) / b
    if not np.isfinite(value).all():
        raise NotEstimableError("the times are so small that a rate per unit has no number")
    return SmoothedHazard(at, np.maximum(value, 0.0), b)


class _Blocks:
    """Stretches of event times with the sums over each of ΔH times 1, x and x².

    x is how far an event time lies from the first of its stretch, in bandwidths. K is a polynomial of
    z = y − x, y that of the first, so a stretch wholly in the window counts by its three sums.
    """

    def __init__(self, time: FloatArray, jumps: FloatArray, b: float) -> None:
        self.b, starts = b, np.arange(0, time.size, BLOCK)
        self.first = time[starts]
        x = (time - np.repeat(self.first, BLOCK)[: time.size]) / b
        weighted = (jumps, jumps * x, jumps * x * x)
        self.sums = [np.add.reduceat(one, starts) if one.size else one for one in weighted]

    def within(self, low: int, high: int) -> tuple[slice, tuple[slice, ...]]:
        """The stretches wholly in a window from ``low`` to ``high``, and what is left at either side."""
        first, last = -(-low // BLOCK), high // BLOCK
        if first >= last:
            return slice(0, 0), (slice(low, high),)
        return slice(first, last), (slice(low, first * BLOCK), slice(last * BLOCK, high))

    def sum(self, within: slice, t: float, powers: tuple[float, float, float]) -> float:
        """Σ K ΔH over some stretches."""
        a, b, c = powers
        y = (t - self.first[within]) / self.b
        s, s_x, s_xx = (one[within] for one in self.sums)
        return float((s * (a + b * y + c * y * y) - s_x * (b + 2 * c * y) + s_xx * c).sum())


def _powers(left: float, right: float) -> tuple[float, float, float]:
    """What 1, z and z² are multiplied with in the K of :func:`_kernel`, within its support."""
    if left >= 1 and right >= 1:
        return 0.75, 0.0, -0.75
    q, sign = (left, 1.0) if left < 1 else (right, -1.0)
    scale, inner = 12 / (1 + q) ** 4, (3 * q * q - 2 * q + 1) / 2
    return scale * inner, sign * scale * (inner + 1 - 2 * q), scale * (1 - 2 * q)


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

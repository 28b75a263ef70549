"""The cumulative hazard with its interval, and the hazard itself, smoothed
(methods.md, section 2: Survival curve)."""

from dataclasses import dataclass

import numpy as np

from hourglass.core.arrays import FloatArray, IntArray
from hourglass.core.curves.estimators import TIES_TOGETHER, Hazard
from hourglass.core.errors import NotEstimableError
from hourglass.core.followup import FollowUp
from hourglass.core.normal import normal_quantile
from hourglass.core.ranges import members
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
    sums = _Sums(table.time, table.events / table.at_risk, b)
    with np.errstate(over="ignore"):
        value = sums.at(at, (at - first) / b, (last - at) / b) / b
    if not np.isfinite(value).all():
        raise NotEstimableError("the times are so small that a rate per unit has no number")
    return SmoothedHazard(at, np.maximum(value, 0.0), b)


class _Sums:
    """Σ K ΔH over the event times near each of some times.

    Event times lie in stretches of BLOCK, each with its sums of ΔH times 1, x and x²; x is how far an event
    time lies from the first of its stretch, in bandwidths. K is a polynomial of z = y − x, y that of the
    first, so a stretch wholly in the window counts by its three sums.
    """

    def __init__(self, time: FloatArray, jumps: FloatArray, b: float) -> None:
        self.time, self.jumps, self.b = time, jumps, b
        starts = np.arange(0, time.size, BLOCK)
        self.first = time[starts]
        x = (time - np.repeat(self.first, BLOCK)[: time.size]) / b
        weighted = (jumps, jumps * x, jumps * x * x)
        self.sums = [np.add.reduceat(one, starts) if one.size else one for one in weighted]

    def at(self, t: FloatArray, left: FloatArray, right: FloatArray) -> FloatArray:
        """(m,) the sums at times ``t``; ``left`` and ``right``: how far the ends are, in bandwidths."""
        low = np.searchsorted(self.time, t - self.b, side="left")
        high = np.searchsorted(self.time, t + self.b, side="right")
        begin, end = -(-low // BLOCK), high // BLOCK
        whole = begin < end
        kernel = _Kernel(left, right)
        total = np.zeros(t.size)
        of, stretch = members(begin, end)
        y = (t[of] - self.first[stretch]) / self.b
        total += _added(of, kernel.over(of, y, *(one[stretch] for one in self.sums)), t.size)
        sides = (
            (low, np.where(whole, begin * BLOCK, high)),
            (np.where(whole, end * BLOCK, high), high),
        )
        for side in sides:
            of, event = members(*side)
            z = (t[of] - self.time[event]) / self.b
            total += _added(of, kernel.at(of, z) * self.jumps[event], t.size)
        return total


class _Kernel:
    """K at each of m times: s (u + 1) (g u + h) for u in [−1, q], u = z, or −z where the right end is near.

    Away from both ends this is ¾ (1 − z²).
    """

    def __init__(self, left: FloatArray, right: FloatArray) -> None:
        inside = (left >= 1) & (right >= 1)
        self.q = q = np.where(inside, 1.0, np.where(left < 1, left, right))
        self.sign = np.where(left < 1, 1.0, -1.0)
        self.s = np.where(inside, 0.75, 12 / (1 + q) ** 4)
        self.g = np.where(inside, -1.0, 1 - 2 * q)
        self.h = np.where(inside, 1.0, (3 * q * q - 2 * q + 1) / 2)

    def at(self, of: IntArray, z: FloatArray) -> FloatArray:
        """K of the times ``of`` at z."""
        u = self.sign[of] * z
        within = (u >= -1) & (u <= self.q[of])
        return np.where(within, self.s[of] * (u + 1) * (self.g[of] * u + self.h[of]), 0.0)

    def over(
        self, of: IntArray, y: FloatArray, s: FloatArray, s_x: FloatArray, s_xx: FloatArray
    ) -> FloatArray:
        """Σ K ΔH over stretches whose first event lies at y, by their sums of ΔH, ΔH x and ΔH x²."""
        a, b, c = (each[of] for each in (self.h, self.sign * (self.g + self.h), self.g))
        return self.s[of] * (s * (a + b * y + c * y * y) - s_x * (b + 2 * c * y) + s_xx * c)


def _added(of: IntArray, values: FloatArray, m: int) -> FloatArray:
    """(m,) the values of each range added up."""
    return np.bincount(of, weights=values, minlength=m).astype(np.float64)

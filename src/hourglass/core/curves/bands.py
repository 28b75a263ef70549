"""Simultaneous confidence bands (methods.md, section 2: Survival curve)."""

import math
from dataclasses import dataclass
from typing import Protocol

import numpy as np
from scipy.optimize import brentq
from scipy.special import ndtr

from hourglass.core.arrays import FloatArray
from hourglass.core.curves.scales import ARCSINE, LINEAR, LOG, LOG_LOG, IntervalScale, interval
from hourglass.core.curves.survival import SurvivalCurve
from hourglass.core.errors import NotEstimableError
from hourglass.core.followup import FollowUp
from hourglass.core.normal import normal_quantile
from hourglass.core.subjects import count_subjects, delayed_entry

BAND_SCALES: tuple[IntervalScale, ...] = (LOG_LOG, LINEAR, LOG, ARCSINE)
"""The scales on which the bands are known to hold."""
MAX_DEVIATIONS = 40.0
"""Standard deviations beyond which a normal has no mass that a float can add."""


class Band(Protocol):
    """A kind of simultaneous band."""

    @property
    def key(self) -> str:
        """What it is called in a statement."""
        ...

    def critical(self, share: FloatArray, alpha: float) -> float:
        """The critical value at level 1 − α.

        Args:
            share: (m,) a(t) = n σ² / (1 + n σ²) at the event times of the band.
            alpha: the chance of leaving the band anywhere.

        Raises:
            NotEstimableError: when there are too few event times.
        """
        ...

    def reach(self, critical: float, sigma2: FloatArray, subjects: int) -> FloatArray:
        """(m,) what takes the place of z σ."""
        ...


class HallWellner:
    """Hall & Wellner (1980): k (1 + n σ²) / √n, wider where fewer are left."""

    key = "Hall–Wellner"

    def critical(self, share: FloatArray, alpha: float) -> float:
        a = float(share[-1])
        z = normal_quantile(1 - alpha)
        low = z * math.sqrt(a * (1 - a) if a < 0.5 else 0.25)
        high = math.sqrt(math.log(2 / alpha) / 2)
        found = brentq(lambda k: _stays_within(k, a) - (1 - alpha), 0.999 * low, 1.001 * high,
                       xtol=1e-15, rtol=1e-15)  # fmt: skip
        return float(found)

    def reach(self, critical: float, sigma2: FloatArray, subjects: int) -> FloatArray:
        return critical * (1 + subjects * sigma2) / math.sqrt(subjects)


class EqualPrecision:
    """Nair (1984): c σ, a multiple of the pointwise interval."""

    key = "equal precision"

    def critical(self, share: FloatArray, alpha: float) -> float:
        low, high = float(share[0]), float(share[-1])
        if low == high:
            raise NotEstimableError("a band of equal precision needs two event times")
        span = math.log(high * (1 - low) / (low * (1 - high)))

        def excess(c: float) -> float:
            density = math.exp(-c * c / 2) / math.sqrt(2 * math.pi)
            return density * (4 / c + (c - 1 / c) * span) - alpha

        steps = np.arange(MAX_DEVIATIONS, 0.01, -0.01)
        above = next((float(c) for c in steps if excess(float(c)) >= 0), None)
        if above is None:
            raise NotEstimableError("no band of equal precision has this level")
        return float(brentq(excess, above, above + 0.02, xtol=1e-15, rtol=1e-15))

    def reach(self, critical: float, sigma2: FloatArray, subjects: int) -> FloatArray:
        return critical * np.sqrt(sigma2)


HALL_WELLNER, EQUAL_PRECISION = HallWellner(), EqualPrecision()
BANDS: tuple[Band, ...] = (HALL_WELLNER, EQUAL_PRECISION)


@dataclass(frozen=True, slots=True)
class SimultaneousBand:
    """A band over the m event times up to the last with S > 0.

    Attributes:
        time, lower, upper: (m,) the band.
        critical: its critical value.
    """

    time: FloatArray
    lower: FloatArray
    upper: FloatArray
    critical: float


def simultaneous_band(
    data: FollowUp, curve: SurvivalCurve, band: Band, scale: IntervalScale = LOG_LOG
) -> SimultaneousBand:
    """A band that the whole curve stays within at the curve's level.

    Raises:
        NotEstimableError: with delayed entry, on a scale it is not known on, or with too few events.
    """
    if delayed_entry(data):
        raise NotEstimableError("a band over the whole curve is not known with delayed entry")
    if scale not in BAND_SCALES:
        raise NotEstimableError(
            f"a band over the whole curve is not known on the {scale.key} scale"
        )
    within = curve.survival > 0
    if not within.any():
        raise NotEstimableError("there is no event time at which survival is above 0")
    subjects = count_subjects(data).subjects
    sigma2 = curve.sigma2[within]
    share = subjects * sigma2 / (1 + subjects * sigma2)
    critical = band.critical(share, 1 - curve.confidence)
    lower, upper = interval(curve.survival[within], band.reach(critical, sigma2, subjects), scale)
    return SimultaneousBand(curve.table.time[within], lower, upper, critical)


def _stays_within(k: float, a: float) -> float:
    """P(sup over [0, a] of the Brownian bridge's distance from 0 ≤ k) (Koziol & Byar 1975)."""
    r, q = k * math.sqrt((1 - a) / a), 1 / (1 - a)
    most = min(math.sqrt(MAX_DEVIATIONS) / k, (MAX_DEVIATIONS / r + q) / 2)
    m = np.arange(1, int(most) + 2)
    # Both ends are in the upper tail, or the lower one is not and the difference is large.
    between = ndtr(-r * (2 * m - q)) - ndtr(-r * (2 * m + q))
    series = (1 - 2 * (m % 2)) * np.exp(-2.0 * m * m * k * k) * between
    return float(1 - 2 * ndtr(-k / math.sqrt(a * (1 - a))) + 2 * series.sum())

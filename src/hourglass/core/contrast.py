"""An estimate of how two groups differ, with its interval and p."""

import math
from dataclasses import dataclass

from scipy.special import ndtr

from hourglass.core.normal import normal_quantile


@dataclass(frozen=True, slots=True)
class Contrast:
    """A difference or a ratio; without an estimate, or without a p, ``blank`` gives the reason."""

    estimate: float | None
    lower: float | None = None
    upper: float | None = None
    p: float | None = None
    blank: str | None = None


def absent(why: str) -> Contrast:
    """No contrast, for a reason."""
    return Contrast(None, blank=why)


def two_sided(z: float) -> float:
    """2 Φ(−|z|)."""
    return 2 * float(ndtr(-abs(z)))


def difference(a: float, b: float, error: float, confidence: float) -> Contrast:
    """b − a with a plain interval, ``error`` the standard error of the difference."""
    half = normal_quantile(confidence) * error
    return Contrast(b - a, b - a - half, b - a + half, two_sided((b - a) / error))


def ratio(a: float, b: float, error: float, confidence: float) -> Contrast:
    """b/a with an interval on the log scale, ``error`` the standard error of the log ratio."""
    log = math.log(b / a)
    half = normal_quantile(confidence) * error
    return Contrast(b / a, math.exp(log - half), math.exp(log + half), two_sided(log / error))

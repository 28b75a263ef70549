"""Mean time without the event up to a limit (methods.md, section 2: Survival curve)."""

import math
from dataclasses import dataclass

import numpy as np

from hourglass.core.arrays import FloatArray
from hourglass.core.contrast import Contrast, absent, difference, ratio
from hourglass.core.curves.survival import SurvivalCurve
from hourglass.core.errors import NotEstimableError

NO_ERROR = "neither mean varies, so there is no error to go by"


@dataclass(frozen=True, slots=True)
class RestrictedMean:
    """∫₀^τ S, with its standard error."""

    limit: float
    mean: float
    standard_error: float


def restricted_mean(curve: SurvivalCurve, limit: float) -> RestrictedMean:
    """The area under the curve up to ``limit``, variance Σ (∫_{t_j}^τ S)² times the step of σ².

    Raises:
        NotEstimableError: when the limit is not above 0, or lies past the largest observed time.
    """
    area = areas(curve.table.time, curve.survival, curve.table.last, limit)
    left = np.cumsum(area[::-1])[::-1]
    beyond, steps = left[1:] / limit, curve.steps[: area.size - 1]
    counts = beyond > 0  # where S is 0 nothing is left, and the step is infinite
    error = math.sqrt(float((np.square(beyond[counts]) * steps[counts]).sum()))
    return RestrictedMean(limit, float(left[0]), error * limit)


def areas(time: FloatArray, survival: FloatArray, last: float, limit: float) -> FloatArray:
    """The areas under a curve's steps (K,) from 0 up to ``limit``, one more than event times up to it.

    Raises:
        NotEstimableError: when the limit is not above 0, or lies past ``last``.
    """
    if not 0 < limit <= last:
        raise NotEstimableError("the mean is restricted to a time past the end of follow-up")
    within = time <= limit
    edges = np.concatenate([[0.0], time[within], [limit]])
    return np.asarray(np.concatenate([[1.0], survival[within]]) * np.diff(edges))


def mean_difference(a: RestrictedMean, b: RestrictedMean, confidence: float = 0.95) -> Contrast:
    """m_B − m_A of independent groups, blank at variance 0."""
    error = math.hypot(a.standard_error, b.standard_error)
    if error == 0:
        return absent(NO_ERROR)
    return difference(a.mean, b.mean, error, confidence)


def mean_ratio(a: RestrictedMean, b: RestrictedMean, confidence: float = 0.95) -> Contrast:
    """m_B / m_A of independent groups, blank at variance 0 or a mean of 0."""
    if a.mean == 0 or b.mean == 0:
        return absent("a mean is 0, so there is no ratio")
    error = math.hypot(a.standard_error / a.mean, b.standard_error / b.mean)
    if error == 0:
        return absent(NO_ERROR)
    return ratio(a.mean, b.mean, error, confidence)

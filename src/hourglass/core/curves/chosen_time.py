"""Two independent curves at a chosen time (methods.md, section 2: Survival curve)."""

import math
from dataclasses import dataclass
from typing import Literal

from hourglass.core.contrast import Contrast, absent, two_sided
from hourglass.core.curves.survival import SurvivalCurve
from hourglass.core.errors import NotEstimableError
from hourglass.core.followup import FollowUp
from hourglass.core.normal import normal_quantile

Course = Literal["benefit", "harm", "benefit through no difference to harm"]


def difference_at(a: SurvivalCurve, b: SurvivalCurve, t: float) -> Contrast:
    """S_B(t) − S_A(t) with a plain interval; p on the log–log scale (Klein, Logan, Harhoff & Andersen 2007).

    The two may disagree near α. Without an interval, or without a p, ``blank`` gives the reason.
    """
    at_a, at_b = a.at(t), b.at(t)
    if at_a is None or at_b is None:
        return absent("that time lies past the end of follow-up of one group")
    apart = at_b.survival - at_a.survival
    if at_a.sigma2 is None or at_b.sigma2 is None:
        return Contrast(apart, blank="survival is 0 in one group, where its error is not known")
    error_a, error_b = at_a.survival**2 * at_a.sigma2, at_b.survival**2 * at_b.sigma2
    half = normal_quantile(a.confidence) * math.sqrt(error_a + error_b)
    if at_a.survival == 1 or at_b.survival == 1:
        blank = "survival is still 1 in one group, which has no place on the log–log scale"
        return Contrast(apart, apart - half, apart + half, None, blank)
    log_a, log_b = math.log(at_a.survival), math.log(at_b.survival)
    error = math.sqrt(at_a.sigma2 / log_a**2 + at_b.sigma2 / log_b**2)
    p = two_sided(math.log(log_a / log_b) / error)
    return Contrast(apart, apart - half, apart + half, p)


@dataclass(frozen=True, slots=True)
class NumberNeeded:
    """How many must have B instead of A for one more to be free of the event; below 0 for harm.

    Attributes:
        estimate: 1/(S_B − S_A); None for "no difference".
        at_lower, at_upper: 1/lo and 1/hi of the difference's interval held to ±1; None likewise.
        course: what the interval runs through.
    """

    estimate: float | None
    at_lower: float | None
    at_upper: float | None
    course: Course


def number_needed(data: FollowUp, a: SurvivalCurve, b: SurvivalCurve, t: float) -> NumberNeeded:
    """The number needed to treat at time t (Altman & Andersen 1999).

    Raises:
        NotEstimableError: with competing events in ``data``, where either S is 0, or where the
            difference has no interval with a width.
    """
    if (data.status > 1).any():
        raise NotEstimableError("with competing events 1 − S is not the probability of the event")
    apart = difference_at(a, b, t)
    if apart.estimate is None or apart.lower is None or apart.upper is None:
        raise NotEstimableError(apart.blank or "the difference has no interval")
    low, high = max(apart.lower, -1.0), min(apart.upper, 1.0)
    if low == high:
        raise NotEstimableError("the interval of the difference has no width")
    course: Course = "benefit through no difference to harm"
    if low >= 0:
        course = "benefit"
    elif high <= 0:
        course = "harm"
    return NumberNeeded(_inverse(apart.estimate), _inverse(low), _inverse(high), course)


def _inverse(difference: float) -> float | None:
    return 1 / difference if difference else None

"""Quantiles of a survival curve, and the median follow-up
(methods.md, section 2: Survival curve)."""

from dataclasses import dataclass
from typing import Literal

import numpy as np

from hourglass.core.arrays import FloatArray
from hourglass.core.curves.survival import SurvivalCurve, survival_curve
from hourglass.core.followup import FollowUp
from hourglass.core.risk_table import risk_table

Rule = Literal["first", "midpoint", "not reached"]
EQUAL = 1e-12
"""S and its limits that come so near to 1 − q are taken to reach it."""


@dataclass(frozen=True, slots=True)
class Quantile:
    """A quantile of the time to the event; an absent time or limit is "not reached".

    ``rule`` states how the time was found: the first time the curve is at or under 1 − q, or the
    midpoint of a step on which it equals 1 − q.
    """

    q: float
    time: float | None
    lower: float | None
    upper: float | None
    rule: Rule


def quantile(curve: SurvivalCurve, q: float) -> Quantile:
    """The time by which a share q has had the event, interval by inversion (Brookmeyer & Crowley 1982).

    Raises:
        ValueError: when q is not above 0 and at most 1.
    """
    if not 0 < q <= 1:
        raise ValueError("a quantile is asked for a share above 0 and at most 1")
    return of_steps(curve.table.time, curve.survival, curve.lower, curve.upper, q)


def of_steps(
    time: FloatArray,
    survival: FloatArray,
    lower_limit: FloatArray,
    upper_limit: FloatArray,
    q: float,
) -> Quantile:
    """The quantile of any curve that falls in steps at ``time`` (K,), from it and its limits (K,)."""
    found, rule = reached(time, survival, 1 - q)
    lower = _first(lower_limit <= 1 - q + EQUAL, time)
    upper = _first(upper_limit <= 1 - q + EQUAL, time)
    return Quantile(q, found, lower, upper, rule)


def reached(time: FloatArray, survival: FloatArray, target: float) -> tuple[float | None, Rule]:
    """The time at which a curve of steps (K,) has fallen to a target, and by which rule."""
    there = np.flatnonzero(survival <= target + EQUAL)
    if there.size == 0:
        return None, "not reached"
    j = int(there[0])
    if abs(survival[j] - target) <= EQUAL:
        drops = np.flatnonzero(survival[j + 1 :] < survival[j])
        if drops.size:
            end = time[j + 1 + int(drops[0])]
            return float(time[j] + (end - time[j]) / 2), "midpoint"
    return float(time[j]), "first"


def median_follow_up(data: FollowUp) -> Quantile:
    """Median of the curve in which the end of a last row with status 0 is the event.

    Every other end of a row, be it an event or the beginning of the subject's next row, is a
    censoring (Schemper & Smith 1996).
    """
    return quantile(survival_curve(risk_table(data, data.event(0) & data.last_rows)), 0.5)


def _first(met: np.ndarray, time: FloatArray) -> float | None:
    where = np.flatnonzero(met)
    return float(time[where[0]]) if where.size else None

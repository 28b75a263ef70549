"""Events per person-time, and the ratio of two rates (methods.md, section 2: Survival curve)."""

import math
import sys
from dataclasses import dataclass

from scipy.special import betainc, betaincc, betaincinv, gammainccinv, gammaincinv

from hourglass.core.contrast import Contrast, absent
from hourglass.core.followup import FollowUp
from hourglass.core.risk_table import person_time
from hourglass.core.subjects import count_subjects


@dataclass(frozen=True, slots=True, kw_only=True)
class Rate:
    """Events per unit of person-time with its exact Poisson interval (Garwood 1936).

    Absent, with ``blank`` giving the reason, where nobody was followed for any time.
    """

    events: int
    person_time: float
    value: float | None
    lower: float | None = None
    upper: float | None = None
    blank: str | None = None


def rate(events: int, person_time: float, confidence: float = 0.95) -> Rate:
    """The rate of a group; the lower limit is 0 at no events."""
    if not 0 < person_time < math.inf:
        why = "nobody was followed for any time" if person_time == 0 else "the times are too large"
        return Rate(events=events, person_time=person_time, value=None, blank=why)
    tail = (1 - confidence) / 2
    low = float(gammaincinv(events, tail)) if events else 0.0
    high = float(gammainccinv(events + 1, tail))
    if high > person_time * sys.float_info.max:
        why = "the person-time is too small to divide by: choose a smaller unit of time"
        return Rate(events=events, person_time=person_time, value=None, blank=why)
    return Rate(
        events=events,
        person_time=person_time,
        value=events / person_time,
        lower=low / person_time,
        upper=high / person_time,
    )


def rate_of(data: FollowUp, confidence: float = 0.95) -> Rate:
    """The rate of the event in rows, over their time at risk."""
    return rate(count_subjects(data).events, person_time(data), confidence)


def rate_ratio(a: Rate, b: Rate, confidence: float = 0.95) -> Contrast:
    """The rate of B to that of A, given the events of both; infinite where A has none."""
    if a.value is None or b.value is None:
        return absent(str(a.blank or b.blank))
    if a.events + b.events == 0:
        return absent("neither group has an event")
    time = float(a.person_time) / float(b.person_time)
    if not sys.float_info.min <= time <= sys.float_info.max:
        return absent("the person-times of the groups are too far apart to compare")
    estimate = math.inf if a.events == 0 else 0.0
    if a.events and b.events:  # 0 events times a ratio of times that may be infinite is 0
        estimate = b.events / a.events * time
    share, rest = least_shares(a, b, confidence)
    low = 0.0 if share is None else share / (1 - share) * time
    high = math.inf if rest is None else (1 - rest) / rest * time
    return Contrast(estimate, low, high, _p(a, b))


def least_shares(a: Rate, b: Rate, confidence: float) -> tuple[float | None, float | None]:
    """The least shares of all events that may fall to B, and to A; None for one without an event."""
    tail = (1 - confidence) / 2
    of_b = float(betaincinv(b.events, a.events + 1, tail)) if b.events else None
    of_a = float(betaincinv(a.events, b.events + 1, tail)) if a.events else None
    return of_b, of_a


def _p(a: Rate, b: Rate) -> float:
    """Twice the smaller of P(≥ d_B) and P(≤ d_B) where both rates are equal, at most 1."""
    share = 1 / (1 + float(a.person_time) / float(b.person_time))
    at_least = float(betainc(b.events, a.events + 1, share)) if b.events else 1.0
    at_most = float(betaincc(b.events + 1, a.events, share)) if a.events else 1.0
    return min(1.0, 2 * min(at_least, at_most))

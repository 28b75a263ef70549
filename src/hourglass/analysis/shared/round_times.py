"""Round times at which something is first read, before anybody has stated one."""

import math

import numpy as np

from hourglass.cohort.followup import Cohort
from hourglass.core.sample_quantiles import sample_quantiles


def middle_event_time(cohort: Cohort) -> float:
    """A round time near the median event time; the end of follow-up where there is none."""
    data = cohort.follow_up
    happened = data.event()
    if not happened.any():
        return data.end
    middle = sample_quantiles(data.exit[happened], data.count[happened], np.array([0.5]))
    return near_round(cohort, float(middle[0]))


def middle_of_follow_up(cohort: Cohort) -> float:
    """A round time near the median of all observed times."""
    data = cohort.follow_up
    return near_round(cohort, float(sample_quantiles(data.exit, data.count, np.array([0.5]))[0]))


def near_round(cohort: Cohort, time: float) -> float:
    """A round time near another, within the follow-up: years of months, else by its power of ten."""
    end = cohort.follow_up.end
    if time <= 0:
        return end
    unit = 10.0 ** math.floor(math.log10(time))
    steps = (
        (12.0, 6.0, 3.0, 1.0) if cohort.statement.unit == "months" else (unit, unit / 2, unit / 4)
    )
    for step in steps:
        near = round(time / step) * step
        if 0 < near < end and abs(near - time) <= 0.25 * time:
            return float(near)
    return time

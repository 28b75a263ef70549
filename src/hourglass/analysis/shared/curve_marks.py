"""A survival curve as it is drawn: its line and limits, censorings, and what is counted under it."""

import numpy as np

from hourglass.analysis.shared.curve_readouts import quartiles
from hourglass.analysis.shared.curves import Curve
from hourglass.analysis.shared.figure.marks import (
    Area,
    CountRow,
    Line,
    Points,
    step_area,
    step_line,
)
from hourglass.cohort.table import once_for_each
from hourglass.core.arrays import FloatArray


def curve_line(curve: Curve) -> Line:
    """The curve as a step line from 1 at time 0 to its largest observed time."""
    return step_line(curve.label, curve.tone, curve.time, curve.survival, curve.data.end)


def interval_area(curve: Curve) -> Area:
    """The limits as a shaded area."""
    return step_area(
        f"{curve.limits_name} of {curve.label}",
        curve.tone,
        curve.time,
        curve.lower,
        curve.upper,
        curve.data.end,
    )


def pointwise_area(curve: Curve) -> Area:
    """The pointwise limits as a shaded area, whatever limits are read of the curve."""
    lower, upper = (
        np.concatenate([[1.0], side]) for side in (curve.estimate.lower, curve.estimate.upper)
    )
    name = f"{curve.form.ci} (pointwise) of {curve.label}"
    return step_area(name, curve.tone, curve.time, lower, upper, curve.data.end)


def quartile_rings(curve: Curve) -> list[Points]:
    """A ring where each quartile of the time to the event is read; none where it is not reached."""
    rings = [(one.time, 1 - one.q) for one in quartiles(curve) if one.time is not None]
    if not rings:
        return []
    x, y = (np.array(values) for values in zip(*rings, strict=True))
    return [Points(label=f"quartiles, {curve.label}", tone=curve.tone, glyph="ring", x=x, y=y)]


def censoring_marks(curve: Curve) -> Points:
    """A tick on the curve at every distinct time at which a subject left without the event."""
    left = curve.data.last_rows & (curve.data.status != 1)
    times = np.unique(curve.data.exit[left])
    times = times[times >= curve.begins]
    at = np.searchsorted(curve.estimate.table.time, times, side="right")
    survival = curve.survival[at]
    label = f"censored, {curve.label}"
    return Points(label=label, tone=curve.tone, glyph="tick", x=times, y=survival)


def count_row(curve: Curve) -> CountRow:
    """The number at risk."""
    return CountRow(
        label=curve.label, tone=curve.tone, time=curve.at_risk.time, number=curve.followed
    )


@once_for_each
def censored_so_far(curve: Curve) -> tuple[FloatArray, FloatArray]:
    """(C,) the times at which subjects are censored, and how many have been from each on."""
    data = curve.data
    left = data.last_rows & data.event(0)
    times, place = np.unique(data.exit[left], return_inverse=True)
    number = np.bincount(place, weights=data.count[left], minlength=times.size)
    return times, np.cumsum(number)


def so_far_row(curve: Curve, time: FloatArray, number: FloatArray) -> CountRow:
    """What has happened so far, under the ticks."""
    return CountRow(label=curve.label, tone=curve.tone, rule="from", time=time, number=number)

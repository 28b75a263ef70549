"""A survival curve as it is read, drawn and reported."""

from dataclasses import dataclass

import numpy as np
from pydantic import ConfigDict

from hourglass.analysis.cautions import thin_from
from hourglass.analysis.figure import Area, CountRow, Line, Marks, area, line
from hourglass.analysis.typed import Numbers, Typed, number, numbers
from hourglass.core.arrays import BoolArray
from hourglass.core.followup import FollowUp
from hourglass.core.people import tally
from hourglass.core.risk_table import AtRisk, at_risk_over_time, number_at_risk, risk_table
from hourglass.core.survival import SurvivalCurve, quantile, survival_curve


class QuantileReading(Typed):
    """A quantile of the time to the event; null is "not reached"."""

    model_config = ConfigDict(extra="ignore")  # the core's rule belongs to the workings

    q: float
    time: float | None
    lower: float | None
    upper: float | None


class CurvePoint(Typed):
    """The curve at a chosen time; without ``survival`` the time lies past the last observed one."""

    time: float
    survival: float | None
    lower: float | None
    upper: float | None
    at_risk: int
    events: int


class CurveReading(Typed):
    """All that the sand line needs to read a curve at any time.

    ``moved_on`` are subjects whose last row is in another group. ``time`` are the event times with S,
    its limits and the events so far; ``at_risk_time`` and ``at_risk`` the number at risk as a
    left-continuous step function.
    """

    label: str
    tone: int
    subjects: int
    moved_on: int
    events: int
    last: float
    thin_from: float | None
    time: list[float]
    survival: Numbers
    lower: Numbers
    upper: Numbers
    events_so_far: list[int]
    at_risk_time: list[float]
    at_risk: list[int]
    quartiles: list[QuantileReading]
    points: list[CurvePoint]


@dataclass(frozen=True, slots=True)
class Curve:
    """A group's curve with what belongs to it."""

    label: str
    tone: int
    data: FollowUp
    estimate: SurvivalCurve
    at_risk: AtRisk


def curve_of(
    data: FollowUp, level: float, label: str, tone: int, rows: BoolArray | None = None
) -> Curve:
    """Estimate the curve of some rows, or of all."""
    part = data if rows is None else data.only(rows)
    return Curve(
        label, tone, part, survival_curve(risk_table(part), level), at_risk_over_time(part)
    )


def reading(curve: Curve, times: tuple[float, ...]) -> CurveReading:
    """The curve for the screen and the report, read also at chosen times."""
    estimate, at_risk, people = curve.estimate, curve.at_risk, tally(curve.data)
    return CurveReading(
        label=curve.label,
        tone=curve.tone,
        subjects=people.subjects,
        moved_on=people.moved_on,
        events=int(estimate.table.events.sum()),
        last=curve.data.end,
        thin_from=thin_from(at_risk),
        time=[float(t) for t in estimate.table.time],
        survival=numbers(estimate.survival),
        lower=numbers(estimate.lower),
        upper=numbers(estimate.upper),
        events_so_far=[int(n) for n in np.cumsum(estimate.table.events)],
        at_risk_time=[float(t) for t in at_risk.time],
        at_risk=[int(n) for n in at_risk.number],
        quartiles=[
            QuantileReading.model_validate(quantile(estimate, q)) for q in (0.25, 0.5, 0.75)
        ],
        points=[point(curve, t) for t in times],
    )


def point(curve: Curve, t: float) -> CurvePoint:
    """The curve at one time."""
    at = curve.estimate.at(t)
    at_risk = int(number_at_risk(curve.data, np.array([t]))[0])
    if at is None:
        events = int(curve.estimate.table.events.sum())
        return CurvePoint(
            time=t, survival=None, lower=None, upper=None, at_risk=at_risk, events=events
        )
    return CurvePoint(
        time=t,
        survival=at.survival,
        lower=number(at.lower),
        upper=number(at.upper),
        at_risk=at_risk,
        events=at.events,
    )


def curve_line(curve: Curve) -> Line:
    """The curve as a step line from 1 at time 0 to its largest observed time."""
    x = np.concatenate([[0.0], curve.estimate.table.time])
    y = np.concatenate([[1.0], curve.estimate.survival])
    return line(curve.label, curve.tone, x, y, curve.data.end)


def interval_area(curve: Curve) -> Area:
    """The pointwise interval as a band."""
    x = np.concatenate([[0.0], curve.estimate.table.time])
    lower = np.concatenate([[1.0], curve.estimate.lower])
    upper = np.concatenate([[1.0], curve.estimate.upper])
    return area(f"interval of {curve.label}", curve.tone, x, lower, upper, curve.data.end)


def censoring_marks(curve: Curve) -> Marks:
    """A tick on the curve at every distinct time at which a subject left without the event."""
    left = curve.data.last_rows & (curve.data.status != 1)
    times = np.unique(curve.data.exit[left])
    at = np.searchsorted(curve.estimate.table.time, times, side="right")
    survival = np.concatenate([[1.0], curve.estimate.survival])[at]
    return Marks(
        label=f"censored, {curve.label}",
        tone=curve.tone,
        glyph="tick",
        x=[float(t) for t in times],
        y=numbers(survival),
    )


def count_row(curve: Curve) -> CountRow:
    """The number at risk."""
    return CountRow(
        label=curve.label,
        tone=curve.tone,
        time=[float(t) for t in curve.at_risk.time],
        number=[int(n) for n in curve.at_risk.number],
    )

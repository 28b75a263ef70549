"""A survival curve as it is read, drawn and reported."""

from collections.abc import Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from hourglass.analysis.shared import wording
from hourglass.analysis.shared.cautions import FEW_AT_RISK, thin_from
from hourglass.analysis.shared.cell import WorkingsOf, missing_note
from hourglass.analysis.shared.curve_form import CurveForm, Limits, limits_of, pointwise
from hourglass.analysis.shared.figure.marks import (
    Area,
    CountRow,
    Line,
    Points,
    step_area,
    step_line,
)
from hourglass.analysis.shared.figure.series import Series
from hourglass.analysis.shared.sections import ChosenTimes, Few, TimedCell, TimedRow, TimedTable
from hourglass.analysis.shared.typed import Typed, number
from hourglass.cohort.table import once_for_each
from hourglass.core.arrays import BoolArray, FloatArray, IntArray
from hourglass.core.curves.quantiles import Quantile, quantile
from hourglass.core.curves.survival import SurvivalCurve, after, survival_curve
from hourglass.core.followup import FollowUp
from hourglass.core.people import tally
from hourglass.core.risk_table import AtRisk, at_risk_over_time, number_at_risk, risk_table

PAST_THE_END = "A curve is not read past the last time at which anybody was seen."


class QuantileReading(Typed):
    """A quantile of the time to the event; null is "not reached".

    ``rule`` says whether the time is one of the data, or the midpoint of a step.
    """

    q: float
    time: float | None
    lower: float | None
    upper: float | None
    rule: str

    @property
    def note(self) -> str:
        """Which of it and its limits are not reached."""
        return missing_note(time=self.time, lower=self.lower, upper=self.upper)

    def worded(self, decimals: int) -> str:
        """The time in words."""
        word = wording.computed_time if self.rule == "midpoint" else wording.time
        return word(self.time, decimals)

    def interval(self, decimals: int) -> str:
        """Its limits in words, "not reached" once where neither is."""
        if self.lower is None and self.upper is None:
            return wording.NOT_REACHED
        return wording.interval(
            wording.time(self.lower, decimals), wording.time(self.upper, decimals)
        )

    def whole(self, decimals: int) -> str:
        """The time with its limits."""
        if self.lower is None and self.upper is None:
            told = self.worded(decimals)
            return told if self.time is None else f"{told} (neither limit reached)"
        return f"{self.worded(decimals)} ({self.interval(decimals)})"


class CurvePoint(Typed):
    """The curve at a chosen time; without ``survival`` the time lies past the last observed one."""

    time: float
    survival: float | None
    lower: float | None
    upper: float | None
    at_risk: int
    events: int


class CurveReading(Typed):
    """What is read of a curve.

    ``place`` is that of its group; ``moved_on`` are subjects whose last row is in another group; ``limits``
    is what the limits of its points are called.
    """

    label: str
    place: int
    tone: int
    subjects: int
    moved_on: int
    events: int
    last: float
    thin_from: float | None
    limits: str
    quartiles: list[QuantileReading]
    points: list[CurvePoint]

    @property
    def median(self) -> QuantileReading:
        """The median."""
        return next(q for q in self.quartiles if q.q == 0.5)


@dataclass(frozen=True, slots=True, eq=False, weakref_slot=True, kw_only=True)
class Curve:
    """A group's curve with what belongs to it; tracks and readings share its arrays.

    Attributes:
        place: of its group among all, the reference first; ``tone``: how it is drawn.
        limits: those that are drawn and read.
        time: (K + 1,) where the curve begins, and the event times; ``survival``, ``lower``, ``upper``,
            ``events``: S, its limits and the events so far from each of these times on.
        followed: (m,) the number at risk up to and with each time of ``at_risk``.
    """

    label: str
    place: int
    tone: int
    data: FollowUp
    estimate: SurvivalCurve
    at_risk: AtRisk
    form: CurveForm
    limits: Limits
    time: FloatArray = field(init=False)
    survival: FloatArray = field(init=False)
    lower: FloatArray = field(init=False)
    upper: FloatArray = field(init=False)
    events: FloatArray = field(init=False)
    followed: FloatArray = field(init=False)

    def __post_init__(self) -> None:
        estimate, limits = self.estimate, self.limits
        # A band begins at the first event time.
        at_first = 1.0 if limits.critical is None else np.nan
        for name, first, rest in (
            ("time", self.begins, estimate.table.time),
            ("survival", 1.0, estimate.survival),
            ("lower", at_first, limits.lower),
            ("upper", at_first, limits.upper),
            ("events", 0.0, np.cumsum(estimate.table.events)),
        ):
            object.__setattr__(self, name, np.concatenate([[first], rest]))
        object.__setattr__(self, "followed", self.at_risk.number.astype(np.float64))

    @property
    def begins(self) -> float:
        """Where the curve begins at 1: at time 0, or where it is given."""
        return 0.0 if self.form.start is None else self.form.start

    @property
    def limits_name(self) -> str:
        """What its limits are called."""
        return self.limits.name(self.form.confidence)

    def limits_at(self, t: float) -> tuple[float | None, float | None]:
        """The limits at a time within the curve; None where there are none."""
        place = np.searchsorted(self.time, t, side="right") - 1
        return number(float(self.lower[place])), number(float(self.upper[place]))


def curve_of(
    data: FollowUp,
    form: CurveForm,
    label: str,
    tone: int,
    rows: BoolArray | None = None,
    place: int = 0,
) -> Curve:
    """Estimate the curve of some rows, or of all; ``place`` is that of their group.

    Raises:
        NotEstimableError: when it is to start where nobody is free of the event any more.
    """
    part = data if rows is None else data.only(rows)
    table, how = risk_table(part), (form.confidence, form.estimator, form.scale)
    start = form.start
    estimate = survival_curve(table, *how) if start is None else after(table, start, *how)
    limits = limits_of(part, estimate, form)
    return Curve(
        label=label,
        place=place,
        tone=tone,
        data=part,
        estimate=estimate,
        at_risk=at_risk_over_time(part),
        form=form,
        limits=limits,
    )


def curves_of_groups(
    data: FollowUp,
    form: CurveForm,
    labels: Sequence[str],
    code: IntArray,
    tones: Sequence[int] = (),
) -> tuple[Curve, ...]:
    """The curve of every group that somebody is in, from the group (n,) of each row; −1 for none.

    ``tones`` are those of the groups, blank for their order.

    All have limits of one kind: where a band is refused for one group, all are pointwise.

    Raises:
        NotEstimableError: as :func:`curve_of`.
    """
    curves = tuple(
        curve_of(data, form, label, tones[k] if tones else k, code == k, k)
        for k, label in enumerate(labels)
        if (code == k).any()
    )
    refused = next((f"{c.limits.refused} ({c.label})" for c in curves if c.limits.refused), "")
    if not refused:
        return curves
    return tuple(replace(c, limits=pointwise(c.estimate, refused)) for c in curves)


def reading(curve: Curve, times: tuple[float, ...]) -> CurveReading:
    """What is told of the curve, read also at chosen times."""
    estimate, people = curve.estimate, tally(curve.data)
    return CurveReading(
        label=curve.label,
        place=curve.place,
        tone=curve.tone,
        subjects=people.subjects,
        moved_on=people.moved_on,
        events=int(estimate.table.events.sum()),
        last=curve.data.end,
        thin_from=thin_from(curve.at_risk),
        limits=curve.limits_name,
        quartiles=[QuantileReading.model_validate(one) for one in quartiles(curve)],
        points=[point(curve, t) for t in times],
    )


def quartiles(curve: Curve) -> list[Quantile]:
    """The times by which a quarter, half and three quarters have had the event."""
    return [quantile(curve.estimate, q) for q in (0.25, 0.5, 0.75)]


def point(curve: Curve, t: float) -> CurvePoint:
    """The curve at one time."""
    at = None if t < curve.begins else curve.estimate.at(t)
    at_risk = int(number_at_risk(curve.data, np.array([t]))[0])
    if at is None:
        events = int(curve.estimate.table.events[curve.estimate.table.time <= t].sum())
        return CurvePoint(
            time=t, survival=None, lower=None, upper=None, at_risk=at_risk, events=events
        )
    lower, upper = curve.limits_at(t)
    return CurvePoint(
        time=t, survival=at.survival, lower=lower, upper=upper, at_risk=at_risk, events=at.events
    )


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


def curve_series(curve: Curve) -> list[Series]:
    """The curve at any time: S, its limits and the events so far; and the number at risk."""
    columns = [curve.survival, curve.lower, curve.upper, curve.events]
    # There is nothing to read before a curve that is given begins.
    from_ = 0 if curve.form.start is not None else 1
    first = [None if from_ == 0 else number(float(column[0])) for column in columns]
    return [
        Series(
            rule="from",
            time=curve.time[from_:],
            columns=[column[from_:] for column in columns],
            before=first,
            end=curve.data.end,
        ),
        Series(rule="until", time=curve.at_risk.time, columns=[curve.followed], before=[None]),
    ]


def at_the_sand_line(
    curves: tuple[Curve, ...], rows_are: str, chosen: ChosenTimes, *, events: bool, grouped: bool
) -> TimedTable:
    """The curves read at the sand line: a row each, with the exact number at risk.

    Args:
        chosen: the times that are told in a table of their own.
        events: whether the events so far are told too.
        grouped: whether the curves are those of groups, whose workings go by their place.
    """
    rows = []
    for k, curve in enumerate(curves):
        about = {"group": curve.place} if grouped else {}
        cells = [
            TimedCell(
                form="percent",
                series=2 * k,
                value=0,
                workings=WorkingsOf(figure="survival", about=dict(about)),
            ),
            TimedCell(form="percent", series=2 * k, low=1, high=2),
            TimedCell(
                form="whole",
                series=2 * k + 1,
                value=0,
                workings=WorkingsOf(figure="subjects", about=dict(about)),
            ),
        ]
        if events:
            cells.append(TimedCell(form="whole", series=2 * k, value=3))
        rows.append(TimedRow(label=curve.label, tone=curve.tone if grouped else None, cells=cells))
    return TimedTable(
        label="At this time",
        head=["", "free", curves[0].limits_name, "at risk", *(["events"] if events else [])],
        series=[one for curve in curves for one in curve_series(curve)],
        rows=rows,
        past=PAST_THE_END,
        few=Few(
            lead="Read with care.",
            sentence=f"At this time fewer than {FEW_AT_RISK} {rows_are} are at risk",
            cell=2,
            below=FEW_AT_RISK,
        ),
        chosen=chosen,
    )

"""What is read of a survival curve: its quartiles, and its value at chosen times."""

import numpy as np

from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.cautions import thin_from
from hourglass.analysis.shared.cell import missing_note
from hourglass.analysis.shared.curves import Curve
from hourglass.analysis.shared.frozen_model import FrozenModel
from hourglass.cohort.time_decimals import TimeDecimals
from hourglass.core.curves.quantiles import Quantile, quantile
from hourglass.core.risk_table import number_at_risk
from hourglass.core.subjects import count_subjects


class QuantileReadout(FrozenModel):
    """A quantile of the time to the event; null is "not reached".

    ``rule`` states whether the time is one of the data, or the midpoint of a step.
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

    def worded(self, decimals: TimeDecimals) -> str:
        """The time in words."""
        word = formatting.computed_time if self.rule == "midpoint" else formatting.time
        return word(self.time, decimals)

    def interval(self, decimals: TimeDecimals) -> str:
        """Its limits in words, "not reached" once where neither is."""
        if self.lower is None and self.upper is None:
            return formatting.NOT_REACHED
        return formatting.interval(
            formatting.time(self.lower, decimals), formatting.time(self.upper, decimals)
        )

    def whole(self, decimals: TimeDecimals) -> str:
        """The time with its limits."""
        if self.lower is None and self.upper is None:
            shown = self.worded(decimals)
            return shown if self.time is None else f"{shown} (neither limit reached)"
        return f"{self.worded(decimals)} ({self.interval(decimals)})"


class CurvePoint(FrozenModel):
    """The curve at a chosen time; without ``survival`` the time lies past the last observed one."""

    time: float
    survival: float | None
    lower: float | None
    upper: float | None
    at_risk: int
    events: int


class CurveReadout(FrozenModel):
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
    quartiles: list[QuantileReadout]
    points: list[CurvePoint]

    @property
    def median(self) -> QuantileReadout:
        """The median."""
        return next(q for q in self.quartiles if q.q == 0.5)


def reading(curve: Curve, times: tuple[float, ...]) -> CurveReadout:
    """What is shown of the curve, read also at chosen times."""
    estimate, counts = curve.estimate, count_subjects(curve.data)
    return CurveReadout(
        label=curve.label,
        place=curve.place,
        tone=curve.tone,
        subjects=counts.subjects,
        moved_on=counts.moved_on,
        events=int(estimate.table.events.sum()),
        last=curve.data.end,
        thin_from=thin_from(curve.at_risk),
        limits=curve.limits_name,
        quartiles=[QuantileReadout.model_validate(one) for one in quartiles(curve)],
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

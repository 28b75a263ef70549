"""Tracks that several stages draw of the curves of groups."""

from hourglass.analysis.catalogue.intervals import INTERVALS
from hourglass.analysis.shared.curve_marks import (
    censored_so_far,
    censoring_marks,
    count_row,
    curve_line,
    interval_area,
    pointwise_area,
    so_far_row,
)
from hourglass.analysis.shared.curves import Curve
from hourglass.analysis.shared.figure.axes import Axis
from hourglass.analysis.shared.figure.description import Panel, Track, symmetric
from hourglass.analysis.shared.figure.marks import AnyMark, Area, Line, Rule, step_area
from hourglass.analysis.shared.figure.parts import (
    CENSORED,
    CURVE,
    LIMITS,
    OTHERS,
    POINTWISE,
    as_part,
    parts_of,
)
from hourglass.core.curves.difference import CurveDifference

SHARE = Axis(low=0, high=1, form="percent")


def at_risk_track(curves: tuple[Curve, ...]) -> Track:
    """The number at risk of every group."""
    return Track(id="at_risk", title="Number at risk", counts=[count_row(c) for c in curves])


def counted_tracks(curves: tuple[Curve, ...]) -> list[Track]:
    """The number at risk of every group; its events and censored so far are offered."""
    return [
        at_risk_track(curves),
        Track(
            id="events_so_far",
            title="Events so far",
            shown=False,
            counts=[so_far_row(c, c.time, c.events) for c in curves],
        ),
        Track(
            id="censored_so_far",
            title="Censored so far",
            shown=False,
            counts=[so_far_row(c, *censored_so_far(c)) for c in curves],
        ),
    ]


def inside_bands(curves: tuple[Curve, ...]) -> list[Area]:
    """The pointwise limits of curves that are read with a band, to be drawn inside it."""
    banded = [curve for curve in curves if INTERVALS[curve.limits.kind].band is not None]
    return as_part(POINTWISE, map(pointwise_area, banded))


def pointwise_note(curves: tuple[Curve, ...]) -> str:
    """How to read pointwise limits inside a band."""
    return f"Darker, inside the band: {curves[0].form.ci}, for one time at a time."


def apart_track(curves: tuple[Curve, ...], *, limits: bool) -> Track:
    """A panel a group on common axes, the other groups behind it as ghosts; its limits on request."""
    panels = [
        Panel(
            title=own.label,
            tone=own.tone,
            marks=[
                *as_part(
                    OTHERS, (_ghost(curve_line(other)) for other in curves if other is not own)
                ),
                *as_part(LIMITS, [interval_area(own)]),
                *inside_bands((own,)),
                *as_part(CENSORED, [censoring_marks(own)]),
                *as_part(CURVE, [curve_line(own)]),
            ],
        )
        for own in curves
    ]
    notes = {
        OTHERS: "The other groups stand faintly behind each.",
        LIMITS: f"Shaded: {curves[0].limits_name}. Limits of two curves may overlap where the curves "
        "differ: read the difference, not the overlap.",
        POINTWISE: pointwise_note(curves),
    }
    return Track(
        id="apart",
        title="Each group apart",
        axis=SHARE,
        shown=False,
        height="room",
        panels=panels,
        parts=parts_of(
            [mark for panel in panels for mark in panel.marks],
            notes,
            (POINTWISE, CENSORED) if limits else (POINTWISE, CENSORED, LIMITS),
        ),
    )


def _ghost(line: Line) -> Line:
    return line.model_copy(update={"ghost": True, "named": False})


def difference_track(
    reference: Curve, other: Curve, apart: CurveDifference, *, shown: bool = True
) -> Track:
    """The difference of two curves with its interval, up to where both are followed."""
    low, high = symmetric(apart.lower, apart.upper)
    marks = _difference_marks(apart, other.tone, min(reference.data.end, other.data.end))
    return Track(
        id="difference",
        title="Difference",
        subtitle=f"{other.label} − {reference.label}, percentage points",
        axis=Axis(low=low, high=high, form="points"),
        shown=shown,
        marks=marks,
        parts=parts_of(marks),
    )


def _difference_marks(apart: CurveDifference, tone: int, end: float) -> list[AnyMark]:
    limits = step_area(
        "interval of the difference", tone, apart.time, apart.lower, apart.upper, end
    )
    line = Line(label="difference", tone=tone, x=apart.time, y=apart.difference, end=end)
    return [Rule(at=0, label="no difference"), *as_part(LIMITS, [limits]), line]

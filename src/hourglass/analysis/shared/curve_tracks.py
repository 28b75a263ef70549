"""Tracks that several stages draw of the curves of groups."""

from hourglass.analysis.shared.curve_marks import (
    censored_so_far,
    count_row,
    curve_line,
    interval_area,
    so_far_row,
)
from hourglass.analysis.shared.curves import Curve
from hourglass.analysis.shared.figure.axes import Axis
from hourglass.analysis.shared.figure.description import Panel, Track, symmetric
from hourglass.analysis.shared.figure.marks import Line, Rule, step_area
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


def apart_track(curves: tuple[Curve, ...], *, intervals: bool) -> Track:
    """A panel a group on common axes, the other groups behind it as ghosts."""
    return Track(
        id="apart",
        title="Each group apart",
        axis=SHARE,
        shown=False,
        height="room",
        panels=[
            Panel(
                title=own.label,
                tone=own.tone,
                marks=[
                    *(_ghost(curve_line(other)) for other in curves if other is not own),
                    *([interval_area(own)] if intervals else []),
                    curve_line(own),
                ],
            )
            for own in curves
        ],
        note="The other groups stand faintly behind each. Intervals of two curves may overlap where "
        "the curves differ: read the difference, not the overlap.",
    )


def _ghost(line: Line) -> Line:
    return line.model_copy(update={"ghost": True, "named": False})


def difference_track(
    reference: Curve, other: Curve, apart: CurveDifference, *, shown: bool = True
) -> Track:
    """The difference of two curves with its interval, up to where both are followed."""
    low, high = symmetric(apart.lower, apart.upper)
    tone, end = other.tone, min(reference.data.end, other.data.end)
    return Track(
        id="difference",
        title="Difference",
        subtitle=f"{other.label} − {reference.label}, percentage points",
        axis=Axis(low=low, high=high, form="points"),
        shown=shown,
        marks=[
            Rule(at=0, label="no difference"),
            step_area(
                "interval of the difference", tone, apart.time, apart.lower, apart.upper, end
            ),
            Line(label="difference", tone=tone, x=apart.time, y=apart.difference, end=end),
        ],
    )

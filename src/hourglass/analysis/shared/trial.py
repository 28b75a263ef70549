"""What a statement would draw that somebody is still choosing, such as a threshold being dragged."""

from pydantic import Field

from hourglass.analysis.shared.cohort_summary import over_follow_up
from hourglass.analysis.shared.curve_marks import curve_line, interval_area
from hourglass.analysis.shared.curve_tracks import SHARE, at_risk_track
from hourglass.analysis.shared.curves import Curve
from hourglass.analysis.shared.figure.description import Figure, Track
from hourglass.analysis.shared.figure.drawing import drawn
from hourglass.analysis.shared.figure.marks import AnyMark
from hourglass.analysis.shared.figure.parts import CURVE, LIMITS, as_part, parts_of
from hourglass.analysis.shared.figure_groups import everyone, figure_groups
from hourglass.analysis.shared.formatting import count
from hourglass.analysis.shared.frozen_model import FrozenModel
from hourglass.analysis.shared.groups import Groups
from hourglass.analysis.shared.naming import free_of
from hourglass.cohort.followup import Cohort
from hourglass.core.subjects import count_subjects


class Trial(FrozenModel):
    """What is drawn while somebody chooses; it holds no p-value, for nothing is tested before the choice.

    Attributes:
        figure: tracks in the place of those of the same id.
        over: marks drawn over those of a track, by its id.
        readings: what has been counted and computed, in words.
        note: that nothing is tested yet, where something will be.
    """

    figure: Figure
    over: dict[str, list[AnyMark]] = Field(default_factory=dict)
    readings: list[str] = Field(default_factory=list)
    note: str = ""


def tried_curves(
    cohort: Cohort, curves: tuple[Curve, ...], groups: Groups | None, *, limits: bool
) -> Trial:
    """The survival and the number at risk of groups, drawn, with the subjects and events of each.

    Args:
        groups: None for the one curve of all subjects.
        limits: whether the limits of the curves are among the marks.
    """
    shades = as_part(LIMITS, map(interval_area, curves)) if limits else []
    named = groups is not None
    lines = [curve_line(curve).model_copy(update={"named": named}) for curve in curves]
    marks: list[AnyMark] = [*shades, *as_part(CURVE, lines)]
    title = free_of(cohort.statement.event_name)
    survival = Track(
        id="survival", title=title, axis=SHARE, height="room", marks=marks, parts=parts_of(marks)
    )
    tracks = [survival, at_risk_track(curves)]
    known = everyone(curves[0].label) if groups is None else figure_groups(groups)
    figure = over_follow_up(cohort, title, tracks, None, groups=known)
    return Trial(
        figure=drawn(figure.model_copy(update={"time": None})),
        readings=[] if groups is None else [_counted(cohort, curve) for curve in curves],
        note="" if groups is None else "No p-value until it is let go.",
    )


def _counted(cohort: Cohort, curve: Curve) -> str:
    """The subjects and events of a group."""
    who = count_subjects(curve.data)
    return f"{curve.label}: {count(who.subjects, cohort.rows_are)}, {count(who.events, 'events')}"

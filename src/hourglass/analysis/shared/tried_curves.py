"""Curves of groups that are only tried: what is drawn while a threshold is being dragged."""

from hourglass.analysis.shared.cohort_summary import over_follow_up
from hourglass.analysis.shared.curve_form import CurveForm
from hourglass.analysis.shared.curve_marks import curve_line, interval_area
from hourglass.analysis.shared.curve_tracks import SHARE, at_risk_track
from hourglass.analysis.shared.curves import curves_of_groups
from hourglass.analysis.shared.figure.description import Figure, Track
from hourglass.analysis.shared.figure.drawing import drawn
from hourglass.analysis.shared.figure_groups import figure_groups
from hourglass.analysis.shared.grouping import GroupedStatement, grouped
from hourglass.analysis.shared.naming import free_of
from hourglass.cohort.followup import Cohort


def tried_curves(
    cohort: Cohort, statement: GroupedStatement, form: CurveForm, *, shaded: bool
) -> Figure:
    """The survival and the number at risk of a statement's groups, drawn, and nothing else.

    Raises:
        NotEstimableError: when there are no such groups.
    """
    groups = grouped(cohort, statement)
    curves = curves_of_groups(cohort.follow_up, form, groups.labels, groups.code, groups.tones)
    shades = [interval_area(curve) for curve in curves] if shaded else []
    title = free_of(cohort.statement.event_name)
    tracks = [
        Track(
            id="survival",
            title=title,
            axis=SHARE,
            height="room",
            marks=[*shades, *(curve_line(curve) for curve in curves)],
        ),
        at_risk_track(curves),
    ]
    figure = over_follow_up(cohort, title, tracks, None, groups=figure_groups(groups))
    return drawn(figure.model_copy(update={"time": None}))

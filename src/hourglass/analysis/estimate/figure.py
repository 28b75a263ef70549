"""The figure of Estimate: the curve of everyone and the number at risk."""

from hourglass.analysis.shared import wording
from hourglass.analysis.shared.cohort_summary import over_follow_up
from hourglass.analysis.shared.curves import (
    Curve,
    censoring_marks,
    count_row,
    curve_line,
    interval_area,
)
from hourglass.analysis.shared.figure.axes import Axis
from hourglass.analysis.shared.figure.description import Figure, Track
from hourglass.cohort.followup import Cohort


def estimate_figure(cohort: Cohort, curve: Curve, name: str, start: float | None) -> Figure:
    """Tracks of survival and of the number at risk."""
    line = curve_line(curve).model_copy(update={"named": False})
    confidence = wording.level_percent(curve.estimate.confidence)
    tracks = [
        Track(
            id="survival",
            title=f"Free of {cohort.statement.event_name}",
            axis=Axis(low=0, high=1, form="percent"),
            height="room",
            marks=[interval_area(curve), censoring_marks(curve), line],
            note=f"Shaded: pointwise {confidence} interval, log–log scale. Ticks: censored.",
        ),
        Track(id="at_risk", title="Number at risk", counts=[count_row(curve)]),
    ]
    return over_follow_up(cohort, name, tracks, start)

"""The figure of Estimate: the curve of everyone and the number at risk."""

from hourglass.analysis.shared import wording
from hourglass.analysis.shared.cohort_summary import event_times, time_label
from hourglass.analysis.shared.curves import (
    Curve,
    censoring_marks,
    count_row,
    curve_line,
    interval_area,
)
from hourglass.analysis.shared.figure import Axis, Figure, Track
from hourglass.cohort.followup import Cohort


def estimate_figure(cohort: Cohort, curve: Curve, name: str, start: float | None) -> Figure:
    """Tracks of survival and of the number at risk."""
    return Figure(
        name=name,
        time_label=time_label(cohort),
        unit=cohort.statement.unit,
        decimals=cohort.decimals,
        end=cohort.follow_up.end,
        events=event_times(cohort),
        start=start,
        tracks=[
            Track(
                id="survival",
                title=f"Free of {cohort.statement.event_name}",
                axis=Axis(low=0, high=1, form="percent"),
                lines=[curve_line(curve)],
                areas=[interval_area(curve)],
                marks=[censoring_marks(curve)],
                note=f"Shaded: pointwise {wording.level_percent(curve.estimate.confidence)} interval, "
                "log–log scale. Ticks: censored.",
            ),
            Track(id="at_risk", title="Number at risk", counts=[count_row(curve)]),
        ],
    )

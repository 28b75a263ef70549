"""The figure of Check: a track a ratio, its smooth through the events' own ratios."""

import numpy as np

from hourglass.analysis.check.courses import Course
from hourglass.analysis.shared import wording
from hourglass.analysis.shared.cohort_summary import event_times, time_label
from hourglass.analysis.shared.figure import INK, Area, Axis, Figure, Line, Marks, Rule, Track
from hourglass.analysis.shared.typed import numbers, ratio_of
from hourglass.analysis.shared.verdict import Verdict
from hourglass.cohort.followup import Cohort
from hourglass.core.arrays import FloatArray
from hourglass.core.regression.proportionality import EventResiduals

MOST_DOTS = 4000
NOTE = (
    "Dots: scaled Schoenfeld residuals, one an event. Line: a restricted cubic spline through them "
    "with its pointwise {confidence} band. Dashed: the single ratio of the model. A line that stays "
    "near the dashed one speaks for a constant ratio; no sign of change is no proof of it."
)


def check_figure(cohort: Cohort, tracks: list[Track], name: str, confidence: float) -> Figure:
    """The tracks over the follow-up."""
    end = cohort.follow_up.end
    return Figure(
        name=name,
        time_label=time_label(cohort),
        unit=cohort.statement.unit,
        decimals=cohort.decimals,
        end=end,
        events=event_times(cohort),
        start=float(np.floor(end / 3 + 0.5)),
        tracks=tracks,
        note=NOTE.format(confidence=wording.level_percent(confidence)),
    )


def course_track(course: Course, residuals: EventResiduals, verdict: Verdict, said: str) -> Track:
    """The smooth with its band, the dots of single events, and the ratio of the model."""
    scaled = residuals.scaled[:, course.column]
    low, high = _domain(scaled, course)
    inside = np.flatnonzero((scaled >= low) & (scaled <= high))
    shown = inside if inside.size <= MOST_DOTS else inside[:: inside.size // MOST_DOTS + 1]
    outside = scaled.size - inside.size
    notes = [f"{wording.count(outside, 'dots')} beyond the edges"] if outside else []
    if shown.size < inside.size:
        notes.append(f"an even sample of {wording.grouped(shown.size)} dots is drawn")
    lines, areas = _smooth(course, low, high)
    return Track(
        id=f"ratio-{course.column}",
        title=course.name,
        subtitle=f"hazard ratio {course.about.told}",
        verdict=verdict,
        verdict_words=said,
        axis=Axis(low=ratio_of(low), high=ratio_of(high), form="ratio"),
        lines=lines,
        areas=areas,
        marks=[
            Marks(
                label="events",
                tone=INK,
                glyph="dot",
                x=[float(t) for t in residuals.time[shown]],
                y=numbers(np.exp(scaled[shown])),
            )
        ],
        rules=[Rule(y=ratio_of(course.beta), label="the single ratio of the model", dashed=True)],
        note="; ".join(notes),
    )


def _smooth(course: Course, low: float, high: float) -> tuple[list[Line], list[Area]]:
    """The smooth and its band, held within the track so that a wide tail ends at its edge."""
    if course.smooth is None:
        return [], []
    x = [float(t) for t in course.time]
    smooth = course.smooth
    y, lower, upper = (
        numbers(np.exp(np.clip(v, low, high))) for v in (smooth.y, smooth.lower, smooth.upper)
    )
    return (
        [Line(label="smooth", tone=INK, x=x, y=y, step=False)],
        [Area(label="band of the smooth", tone=INK, x=x, low=lower, high=upper, step=False)],
    )


def _domain(scaled: FloatArray, course: Course) -> tuple[float, float]:
    """Log-ratio limits that show the smooth whole and most dots, but not the farthest."""
    beta = course.beta
    ends = [*np.quantile(scaled, [0.03, 0.97]), beta - 0.2, beta + 0.2]
    if course.smooth is not None:
        ends += [float(course.smooth.lower.min()), float(course.smooth.upper.max())]
        # A smooth that is all tail must not flatten the rest.
        reach = 4 * float(np.ptp(np.quantile(scaled, [0.1, 0.9]))) + 1
        ends = [float(np.clip(e, beta - reach, beta + reach)) for e in ends]
    return max(min(ends), -600.0), min(max(ends), 600.0)

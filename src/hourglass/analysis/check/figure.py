"""The figure of Check: a track a ratio, its smooth through the events' own ratios."""

import numpy as np

from hourglass.analysis.check.courses import Course
from hourglass.analysis.check.question import Answer
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.cell import WorkingsOf
from hourglass.analysis.shared.cohort_summary import over_follow_up
from hourglass.analysis.shared.figure.axes import Axis
from hourglass.analysis.shared.figure.description import Figure, Track
from hourglass.analysis.shared.figure.marks import AnyMark, Area, Line, Points, Rule
from hourglass.analysis.shared.frozen_model import ratio_of
from hourglass.analysis.shared.verdict import Verdict
from hourglass.cohort.followup import Cohort
from hourglass.core.arrays import FloatArray, IntArray
from hourglass.core.regression.proportionality import EventResiduals
from hourglass.core.sample_quantiles import sample_quantiles

NOTE = (
    "Dots: scaled Schoenfeld residuals, one an event. Line: a restricted cubic spline through them "
    "with its pointwise {confidence} band. Dashed: the single ratio of the model. A line that stays "
    "near the dashed one speaks for a constant ratio; no sign of change is no proof of it."
)


def check_figure(cohort: Cohort, answer: Answer, name: str) -> Figure | None:
    """The tracks of an answer: over the follow-up, or each with an axis of its own."""
    if not answer.tracks:
        return None
    start = float(np.floor(cohort.follow_up.end / 3 + 0.5)) if answer.timed else None
    found = over_follow_up(cohort, name, answer.tracks, start, answer.note)
    return found if answer.timed else found.model_copy(update={"time": None})


def course_track(
    course: Course, residuals: EventResiduals, numbers: IntArray, verdict: Verdict, text: str
) -> Track:
    """The smooth with its band, the dots of single events, and the ratio of the model.

    ``numbers`` (D,) are the rows of the residuals, as the table numbers them.
    """
    scaled = residuals.scaled[:, course.column]
    low, high = _domain(scaled, residuals.count, course)
    inside = (scaled >= low) & (scaled <= high)
    outside = int(residuals.count[~inside].sum())
    dots = Points(
        label="events",
        glyph="dot",
        x=residuals.time[inside],
        y=np.exp(scaled[inside]),
        rows=numbers[inside].tolist(),
        opens=WorkingsOf(figure="scaled-residual", about={"column": course.column}),
    )
    smooth = _smooth(course, low, high)
    single_ratio = Rule(
        at=ratio_of(course.beta), label="the single ratio of the model", dashed=True
    )
    return Track(
        id=f"ratio-{course.column}",
        title=course.name,
        subtitle=f"hazard ratio {course.about.comparison}",
        verdict=verdict,
        verdict_words=text,
        axis=Axis(low=ratio_of(low), high=ratio_of(high), form="ratio"),
        marks=[single_ratio, *smooth[:1], dots, *smooth[1:]],
        note=f"{formatting.count(outside, 'dots')} beyond the edges" if outside else "",
    )


def _smooth(course: Course, low: float, high: float) -> list[AnyMark]:
    """The band of the smooth and the smooth, held within the track so that a wide tail ends at its edge."""
    if course.smooth is None:
        return []
    smooth = course.smooth
    y, lower, upper = (
        np.exp(np.clip(v, low, high)) for v in (smooth.y, smooth.lower, smooth.upper)
    )
    return [
        Area(label="band of the smooth", x=course.time, low=lower, high=upper, step=False),
        Line(label="smooth", x=course.time, y=y, step=False),
    ]


def _domain(scaled: FloatArray, count: IntArray, course: Course) -> tuple[float, float]:
    """Log-ratio limits that show the smooth whole and most dots, but not the farthest."""
    beta = course.beta
    least, low, high, most = sample_quantiles(scaled, count, np.array([0.03, 0.1, 0.9, 0.97]))
    ends = [float(least), float(most), beta - 0.2, beta + 0.2]
    if course.smooth is not None:
        ends += [float(course.smooth.lower.min()), float(course.smooth.upper.max())]
        # A smooth that is all tail must not flatten the rest.
        reach = 4 * float(high - low) + 1
        ends = [float(np.clip(e, beta - reach, beta + reach)) for e in ends]
    return max(min(ends), -600.0), min(max(ends), 600.0)

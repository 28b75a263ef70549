"""What ignoring censoring would have given, beside what is right: shown on request."""

import numpy as np

from hourglass.analysis.estimate.curves import Estimated
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.cell import Cell, number_cell, words
from hourglass.analysis.shared.cohort_summary import CohortSummary
from hourglass.analysis.shared.curve_readouts import CurveReadout
from hourglass.analysis.shared.curves import Curve
from hourglass.analysis.shared.section_ids import SectionId
from hourglass.analysis.shared.sections import Section, Table, quiet
from hourglass.core.arrays import BoolArray
from hourglass.core.sample_quantiles import sample_quantiles

WHY = (
    "Never report the right-hand column. A median over those who had the event leaves out everybody who "
    "was still waiting, so it is too short. Counting whoever left early as free of the event to the end "
    "makes the share free too high; and counting only those whose outcome is known throws away what the "
    "others' follow-up says."
)


def ignoring_section(cohort: CohortSummary, found: Estimated, read: list[CurveReadout]) -> Section:
    """The median among events only, and the share free were the censored taken as free."""
    rows: list[list[Cell]] = []
    for curve, one in zip(found.curves, read, strict=True):
        tone = curve.tone if found.grouped else None
        wrong = median_among_events(curve)
        rows.append(
            [
                words(f"{curve.label}: median", tone=tone),
                number_cell(one.median.worded(cohort.decimals), one.median.time),
                number_cell(formatting.computed_time(wrong, cohort.decimals), wrong)
                if wrong is not None
                else words("no event"),
                words("among events only"),
            ]
        )
        for point in one.points:
            if point.survival is None:
                continue
            rows += [
                [
                    words(f"free at {formatting.stated_time(point.time, cohort.unit)}", tone=tone),
                    number_cell(formatting.percent(point.survival), point.survival),
                    number_cell(formatting.percent(naive), naive),
                    words(how),
                ]
                for naive, how in (
                    (free_if_censored_are_free(curve, point.time), "censored taken as free"),
                    (free_if_censored_are_dropped(curve, point.time), "censored left out"),
                )
            ]
    return Section(
        id=SectionId.IGNORING,
        title="What ignoring censoring would have given",
        place="main" if found.grouped else "side",
        blocks=[
            Table(
                label="What ignoring censoring would have given",
                head=["", "right", "wrong", "how"],
                keys=["what", "right", "wrong", "how"],
                rows=rows,
            ),
            quiet(WHY),
        ],
    )


def median_among_events(curve: Curve) -> float | None:
    """The median time of those who had the event: too short, for the others were still waiting."""
    event = curve.data.event() & _followed(curve)
    if not event.any():
        return None
    half = np.array([0.5])
    return float(sample_quantiles(curve.data.exit[event], curve.data.count[event], half)[0])


def free_if_censored_are_free(curve: Curve, t: float) -> float:
    """The share without the event by t, were everybody censored before t taken as free of it."""
    data, followed = curve.data, _followed(curve)
    happened = data.event() & followed & (data.exit <= t)
    return 1 - float(data.count[happened].sum() / data.count[data.last_rows & followed].sum())


def free_if_censored_are_dropped(curve: Curve, t: float) -> float | None:
    """The share without the event by t among those alone whose state at t is known; None for nobody."""
    data, followed = curve.data, _followed(curve)
    happened = data.event() & followed & (data.exit <= t)
    beyond = data.last_rows & followed & (data.exit > t)
    free, known = data.count[beyond].sum(), data.count[happened | beyond].sum()
    return float(free / known) if known else None


def _followed(curve: Curve) -> BoolArray:
    """(n,) True for rows that are followed beyond where the curve begins."""
    if curve.form.start is None:
        return np.ones(curve.data.exit.size, dtype=bool)
    return np.asarray(curve.data.exit > curve.form.start)

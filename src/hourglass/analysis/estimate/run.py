"""Estimate: survival of everyone (methods.md, section 2: Survival curve)."""

from hourglass.analysis import cautions, wording
from hourglass.analysis.context import CohortSummary, event_times, summarise, time_label
from hourglass.analysis.curves import (
    CurveReading,
    censoring_marks,
    count_row,
    curve_line,
    curve_of,
    interval_area,
    reading,
)
from hourglass.analysis.figure import Axis, Figure, Track
from hourglass.analysis.sentence import Entry, Option, Sentence, Slot, sentence
from hourglass.analysis.statements import EstimateStatement
from hourglass.analysis.typed import Typed
from hourglass.analysis.watch import Watch, unwatched
from hourglass.cohort.followup import Cohort

LEVELS = (0.9, 0.95, 0.99)


class EstimateResult(Typed):
    """The curve of everyone, its readings and its figure."""

    cohort: CohortSummary
    sentence: Sentence
    curve: CurveReading
    figure: Figure
    cautions: list[cautions.Caution]
    headline: str


def estimate(
    cohort: Cohort, statement: EstimateStatement, watch: Watch = unwatched
) -> EstimateResult:
    """Estimate survival free of the event for the whole cohort."""
    watch("estimating survival", 0.1)
    words = estimate_sentence(cohort, statement)
    curve = curve_of(cohort.follow_up, statement.level, "everyone", -1)
    read = reading(curve, statement.times)
    title = f"Free of {cohort.statement.event_name}"
    figure = Figure(
        name=words.text,
        time_label=time_label(cohort),
        end=cohort.follow_up.end,
        events=event_times(cohort),
        tracks=[
            Track(
                id="survival",
                title=title,
                axis=Axis(low=0, high=1, form="percent"),
                lines=[curve_line(curve)],
                areas=[interval_area(curve)],
                marks=[censoring_marks(curve)],
                note=f"Shaded: pointwise {wording.level_percent(statement.level)} interval, "
                "log–log scale. Ticks: censored.",
            ),
            Track(id="at_risk", title="Number at risk", counts=[count_row(curve)]),
        ],
    )
    first = int(curve.estimate.table.at_risk[0]) if curve.estimate.table.time.size else 10
    found = [
        *cautions.made_by_decision(cohort),
        *cautions.several_rows(cohort),
        *cautions.late_entry(cohort, first),
        *cautions.competing(cohort, "curve"),
        *cautions.few_at_risk(cohort, [("everyone", read.thin_from)]),
    ]
    median = read.quartiles[1].time
    if median is None:
        headline = "median not reached"
    else:
        headline = f"median {wording.time(median, cohort.time_digits)} {cohort.statement.unit}"
    return EstimateResult(
        cohort=summarise(cohort),
        sentence=words,
        curve=read,
        figure=figure,
        cautions=found,
        headline=headline,
    )


def estimate_sentence(cohort: Cohort, statement: EstimateStatement) -> Sentence:
    """Survival of everyone, as a sentence."""
    unit = cohort.statement.unit
    return sentence(
        f"Estimate the share of {cohort.rows_are} still free of "
        f"{cohort.statement.event_name}, with ",
        level_slot(statement.level),
        " log–log intervals, read at ",
        times_slot(statement.times, unit),
        f" {unit}.",
    )


def level_slot(level: float) -> Slot:
    """The slot for the level of intervals."""
    options = [
        Option(
            label=wording.level_percent(value),
            note=f"covers the truth in {wording.plain(100 * value)} of 100 studies like this one",
            field="level",
            value=value,
            chosen=value == level,
        )
        for value in LEVELS
    ]
    return Slot(
        id="level", label=wording.level_percent(level), title="Level of intervals", options=options
    )


def times_slot(times: tuple[float, ...], unit: str) -> Slot:
    """The slot for chosen times."""
    written = [wording.plain(t) for t in times]
    return Slot(
        id="times",
        label=wording.listed(written) or "no chosen times",
        title="Times to read the curve at",
        entry=Entry(
            kind="times", field="times", label=f"Times, in {unit}", value=", ".join(written)
        ),
    )

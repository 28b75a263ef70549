"""Estimate: survival of everyone, or by group (methods.md, section 2: Survival curve)."""

from pydantic import Field

from hourglass.analysis.estimate.curves import Estimated, estimated
from hourglass.analysis.estimate.figure import estimate_figure
from hourglass.analysis.estimate.sections import estimate_sections
from hourglass.analysis.estimate.sentence import estimate_sentence
from hourglass.analysis.estimate.statement import EstimateStatement
from hourglass.analysis.shared import cautions, wording
from hourglass.analysis.shared.cohort_summary import CohortSummary, summarise
from hourglass.analysis.shared.curves import CurveReading, curve_of, reading
from hourglass.analysis.shared.figure.marks import INK
from hourglass.analysis.shared.result import StageResult
from hourglass.cohort.followup import Cohort
from hourglass.core.errors import NotEstimableError
from hourglass.core.watch import Watch, unwatched

HINT = "choose any underlined number to see it computed, term by term · ← → next event"


class EstimateResult(StageResult):
    """The curve of everyone, and those of the groups that are shown; ``band_refused`` says why a band that
    was asked for is not there."""

    cohort: CohortSummary
    curve: CurveReading
    curves: list[CurveReading] = Field(default_factory=list)
    band_refused: str = ""


def estimate(
    cohort: Cohort, statement: EstimateStatement, watch: Watch = unwatched
) -> EstimateResult:
    """Estimate survival free of the event, for the whole cohort or for each group."""
    watch("estimating survival", 0.1)
    words, summary = estimate_sentence(cohort, statement), summarise(cohort)
    try:
        found = estimated(cohort, statement)
    except NotEstimableError as reason:
        return EstimateResult(
            line=summary.line,
            sentence=words,
            blank=_sentence(str(reason)),
            headline="no curves",
            hint=HINT,
            cohort=summary,
            curve=_everyone(cohort, statement),
        )
    read = [reading(curve, statement.times) for curve in found.curves]
    watch("drawing", 0.7)
    return EstimateResult(
        line=summary.line,
        sentence=words,
        figure=estimate_figure(found, words.text),
        sections=estimate_sections(summary, found, read),
        cautions=_cautions(cohort, found, read),
        headline=_headline(summary, read),
        hint=HINT,
        cohort=summary,
        curve=read[0] if _is_everyone(statement) else _everyone(cohort, statement),
        curves=read,
        band_refused=found.curves[0].limits.refused,
    )


def _is_everyone(statement: EstimateStatement) -> bool:
    """Whether the one curve that is asked for is that of everyone from the beginning."""
    return statement.by is None and statement.form.start is None


def _everyone(cohort: Cohort, statement: EstimateStatement) -> CurveReading:
    """The curve of everyone from the beginning, which the report shows beside any groups."""
    form = statement.form.from_the_beginning
    return reading(curve_of(cohort.follow_up, form, "everyone", INK), statement.times)


def _sentence(reason: str) -> str:
    return wording.capital(reason).rstrip(".") + "."


def _cautions(cohort: Cohort, found: Estimated, read: list[CurveReading]) -> list[cautions.Caution]:
    first = [int(c.estimate.table.at_risk[0]) for c in found.curves if c.estimate.table.time.size]
    return [
        *cautions.made_by_decision(cohort),
        *cautions.close_times(cohort),
        *cautions.several_rows(cohort),
        *cautions.nobody_at_first(cohort, found.statement.start or 0.0),
        *cautions.late_entry(cohort, min(first, default=10)),
        *cautions.competing(cohort, "curve"),
        *cautions.few_at_risk(cohort, [(r.label, r.thin_from) for r in read]),
    ]


def _headline(summary: CohortSummary, read: list[CurveReading]) -> str:
    medians = [one.median.worded(summary.decimals) for one in read]
    if len(medians) > 3:
        return f"{len(medians)} groups"
    unit = "" if all(one.median.time is None for one in read) else f" {summary.unit}"
    return f"median {wording.listed(medians)}{unit}"

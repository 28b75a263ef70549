"""Estimate: survival of everyone (methods.md, section 2: Survival curve)."""

from hourglass.analysis.estimate.figure import estimate_figure
from hourglass.analysis.estimate.sections import estimate_sections
from hourglass.analysis.estimate.sentence import estimate_sentence
from hourglass.analysis.estimate.statement import EstimateStatement
from hourglass.analysis.shared import cautions
from hourglass.analysis.shared.cohort_summary import CohortSummary, summarise
from hourglass.analysis.shared.curves import CurveReading, curve_of, reading
from hourglass.analysis.shared.result import StageResult
from hourglass.cohort.followup import Cohort
from hourglass.core.watch import Watch, unwatched

HINT = "choose any underlined number to see it computed, term by term · ← → next event"


class EstimateResult(StageResult):
    """The curve of everyone."""

    cohort: CohortSummary
    curve: CurveReading


def estimate(
    cohort: Cohort, statement: EstimateStatement, watch: Watch = unwatched
) -> EstimateResult:
    """Estimate survival free of the event for the whole cohort."""
    watch("estimating survival", 0.1)
    words, summary = estimate_sentence(cohort, statement), summarise(cohort)
    curve = curve_of(cohort.follow_up, statement.confidence, "everyone", -1)
    read = reading(curve, statement.times)
    first = int(curve.estimate.table.at_risk[0]) if curve.estimate.table.time.size else 10
    median = read.median
    told = median.worded(cohort.decimals)
    return EstimateResult(
        line=summary.line,
        sentence=words,
        figure=estimate_figure(cohort, curve, words.text, next(iter(statement.times), None)),
        sections=estimate_sections(summary, curve, read),
        cautions=[
            *cautions.made_by_decision(cohort),
            *cautions.several_rows(cohort),
            *cautions.late_entry(cohort, first),
            *cautions.competing(cohort, "curve"),
            *cautions.few_at_risk(cohort, [("everyone", read.thin_from)]),
        ],
        headline=f"median {told}" + ("" if median.time is None else f" {cohort.statement.unit}"),
        hint=HINT,
        cohort=summary,
        curve=read,
    )

"""Estimate: survival of everyone, or by group (methods.md, section 2: Survival curve)."""

from pydantic import Field

from hourglass.analysis.estimate.curves import Estimated, estimated
from hourglass.analysis.estimate.figure import estimate_figure
from hourglass.analysis.estimate.numbers import EstimateNumbers
from hourglass.analysis.estimate.sections import estimate_sections
from hourglass.analysis.estimate.sentence import estimate_sentence
from hourglass.analysis.estimate.statement import EstimateStatement
from hourglass.analysis.shared import cautions, formatting
from hourglass.analysis.shared.cohort_summary import CohortSummary, summarise
from hourglass.analysis.shared.curve_readouts import CurveReadout, reading
from hourglass.analysis.shared.curves import CurveNumbers, curve_of
from hourglass.analysis.shared.declared import Statements, statement_of
from hourglass.analysis.shared.ink import INK
from hourglass.analysis.shared.result import StageResult
from hourglass.cohort.followup import Cohort

HINT = "choose any underlined number to see it computed, term by term · ← → next event"


class EstimateResult(StageResult):
    """The curve of everyone, and those of the groups that are shown; ``band_refused`` gives the reason why a
    band that was requested is not there."""

    cohort: CohortSummary
    curve: CurveReadout
    curves: list[CurveReadout] = Field(default_factory=list)
    band_refused: str = ""


def estimate_result(
    numbers: EstimateNumbers, cohort: Cohort, statements: Statements
) -> EstimateResult:
    """Survival free of the event, of the whole cohort or of each group, as it is shown."""
    statement = statement_of(statements, EstimateStatement)
    words, summary = estimate_sentence(cohort, statement), summarise(cohort)
    everyone = _everyone(cohort, statement, numbers.everyone)
    if numbers.refused:
        return EstimateResult(
            line=summary.line,
            sentence=words,
            blank=_sentence(numbers.refused),
            headline="no curves",
            hint=HINT,
            cohort=summary,
            curve=everyone,
        )
    found = estimated(cohort, statement, numbers.curves)
    read = [reading(curve, statement.times) for curve in found.curves]
    return EstimateResult(
        line=summary.line,
        sentence=words,
        figure=estimate_figure(found, words.text),
        sections=estimate_sections(summary, found, read),
        cautions=_cautions(cohort, found, read),
        headline=_headline(summary, read),
        hint=HINT,
        cohort=summary,
        curve=read[0] if statement.is_everyone else everyone,
        curves=read,
        band_refused=found.curves[0].limits.refused,
    )


def _everyone(cohort: Cohort, statement: EstimateStatement, known: CurveNumbers) -> CurveReadout:
    """The curve of everyone from the beginning, which the report shows beside any groups."""
    form = statement.form.from_the_beginning
    curve = curve_of(cohort.follow_up, form, f"all {cohort.rows_are}", INK, known=known)
    return reading(curve, statement.times)


def _sentence(reason: str) -> str:
    return formatting.capital(reason).rstrip(".") + "."


def _cautions(cohort: Cohort, found: Estimated, read: list[CurveReadout]) -> list[cautions.Caution]:
    first = [int(c.estimate.table.at_risk[0]) for c in found.curves if c.estimate.table.time.size]
    return [
        *cautions.made_by_decision(cohort),
        *cautions.close_times(cohort),
        *cautions.several_rows(cohort),
        *cautions.time_varying_groups(cohort, found.statement.by),
        *cautions.nobody_at_first(cohort, found.statement.start or 0.0),
        *cautions.late_entry(cohort, min(first, default=10)),
        *cautions.competing(cohort, "curve"),
        *cautions.few_at_risk(cohort, [(r.label, r.thin_from) for r in read]),
    ]


def _headline(summary: CohortSummary, read: list[CurveReadout]) -> str:
    medians = [one.median.worded(summary.decimals) for one in read]
    if len(medians) > 3:
        return f"{len(medians)} groups"
    unit = "" if all(one.median.time is None for one in read) else f" {summary.unit}"
    return f"median {formatting.listed(medians)}{unit}"

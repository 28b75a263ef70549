"""Compare: do groups differ, by how much, and when
(methods.md, section 2: Survival curve; section 3: Comparing groups)."""

from pydantic import Field

from hourglass.analysis.catalogue.weights import WEIGHTS
from hourglass.analysis.compare.crossing import crossed_curves
from hourglass.analysis.compare.figure import compare_figure
from hourglass.analysis.compare.groups import comparison
from hourglass.analysis.compare.numbers import CompareNumbers
from hourglass.analysis.compare.screening import Screening, screening_figure, screening_sections
from hourglass.analysis.compare.sections import compare_sections
from hourglass.analysis.compare.sentence import compare_sentence
from hourglass.analysis.compare.statement import CompareStatement
from hourglass.analysis.compare.threshold import chosen_for_its_p
from hourglass.analysis.compare.variables import in_shown_order, variables_of
from hourglass.analysis.estimate.statement import EstimateStatement
from hourglass.analysis.shared import cautions, formatting
from hourglass.analysis.shared.cohort_summary import CohortSummary, summarise
from hourglass.analysis.shared.curve_readouts import CurveReadout, reading
from hourglass.analysis.shared.declared import Statements, statement_of
from hourglass.analysis.shared.frozen_model import FrozenModel
from hourglass.analysis.shared.result import StageResult
from hourglass.analysis.shared.sentence import Sentence
from hourglass.cohort.followup import Cohort
from hourglass.core.curves.difference import curve_difference

HINT = "choose any underlined number to see it computed, term by term · ← → next event"


class TestReadout(FrozenModel):
    """A test; without a statistic ``blank`` gives the reason."""

    __test__ = False

    statistic: float | None
    df: int
    p: float | None
    blank: str | None


class ObservedExpected(FrozenModel):
    """A group's events, seen and expected were there no difference."""

    label: str
    observed: int
    expected: float


class CompareResult(StageResult):
    """Curves by group and the test, ``test_name``; without a category to compare by, ``blank``.

    ``by`` is the column that makes the groups.
    """

    cohort: CohortSummary
    curves: list[CurveReadout] = Field(default_factory=list)
    groups: list[ObservedExpected] = Field(default_factory=list)
    by: str | None = None
    test_name: str
    test: TestReadout
    left_out: int = 0

    def group(self, label: str) -> str:
        """A group with the column that makes it, as it is named where that is not in sight."""
        own = self.by is None or label.startswith(f"{self.by} ")
        return label if own else f"{self.by} {label}"


def compare_result(
    numbers: CompareNumbers, cohort: Cohort, statements: Statements
) -> CompareResult:
    """Groups compared, or each variable in turn, as it is shown."""
    statement = statement_of(statements, CompareStatement)
    of_curves = statement_of(statements, EstimateStatement)
    form = of_curves.study_form
    words, summary = compare_sentence(cohort, statement, form), summarise(cohort)
    if statement.each:
        variables = variables_of(cohort, statement)
        shown = in_shown_order(numbers.screened, variables, statement)
        found = Screening(statement, form, variables, shown)
        return _screened(cohort, found, summary, words)
    if numbers.compared is None:
        return _blank(summary, words, statement, numbers.refused or NO_CATEGORY)
    return _compared(cohort, numbers, statement, of_curves, summary, words)


def _compared(
    cohort: Cohort,
    numbers: CompareNumbers,
    statement: CompareStatement,
    of_curves: EstimateStatement,
    summary: CohortSummary,
    words: Sentence,
) -> CompareResult:
    """One comparison; ``of_curves`` is Estimate's: the form of curves, chosen times, the limit of means."""
    times = of_curves.times
    found = comparison(cohort, statement, of_curves.study_form, numbers.compared)
    apart = curve_difference(found.curves[0].estimate, found.curves[found.contrast].estimate)
    read = [reading(curve, times) for curve in found.curves]
    test = TestReadout.model_validate(found.log_rank.test)
    weight, crossed = WEIGHTS[statement.weight], crossed_curves(found)
    return CompareResult(
        line=summary.line,
        sentence=words,
        figure=compare_figure(
            cohort, found, apart, numbers.profile, words.text, next(iter(times), None)
        ),
        sections=compare_sections(cohort, summary, found, numbers, apart, read, of_curves, crossed),
        cautions=[
            *cautions.made_by_decision(cohort),
            *cautions.close_times(cohort),
            *cautions.several_rows(cohort),
            *cautions.time_varying_groups(cohort, statement.by, *statement.within),
            *cautions.competing(cohort, "curve"),
            *cautions.few_at_risk(cohort, [(r.label, r.thin_from) for r in read]),
            *cautions.crossing(cohort, crossed, test.p),
            *chosen_for_its_p(cohort, statement),
        ],
        headline="no test" if test.p is None else f"{weight.test} {formatting.p_phrase(test.p)}",
        hint=HINT,
        cohort=summary,
        curves=read,
        groups=[
            ObservedExpected(
                label=label,
                observed=int(found.log_rank.observed[g]),
                expected=float(found.log_rank.expected[g]),
            )
            for g, label in enumerate(found.groups.labels)
        ],
        by=found.groups.column,
        test_name=weight.test,
        test=test,
        left_out=found.left_out,
    )


def _screened(
    cohort: Cohort, found: Screening, summary: CohortSummary, words: Sentence
) -> CompareResult:
    """Each variable in turn, in place of one comparison."""
    statement = found.statement
    if not found.found:
        return _blank(summary, words, statement, "There is no variable that could make groups.")
    below = sum(one.p is not None and one.p < formatting.ALPHA for one in found.found)
    return CompareResult(
        line=summary.line,
        sentence=words,
        figure=screening_figure(cohort, found, words.text),
        sections=screening_sections(summary, found),
        cautions=[*cautions.made_by_decision(cohort), *cautions.close_times(cohort), SCREEN],
        headline=f"{below} of {len(found.found)} variables below {formatting.ALPHA}",
        hint=HINT,
        cohort=summary,
        test_name=WEIGHTS[statement.weight].test,
        test=TestReadout(statistic=None, df=0, p=None, blank="each variable is tested in turn"),
    )


SCREEN = cautions.Caution(
    key="screen",
    lead="A screen.",
    sentence="Many variables were tested. The adjusted p counts them; nothing is confirmed by it.",
)


NO_CATEGORY = (
    "Choose a category in the sentence above. It needs at least two levels among the rows analysed."
)


def _blank(
    summary: CohortSummary, words: Sentence, statement: CompareStatement, blank: str = NO_CATEGORY
) -> CompareResult:
    why = "no groups are compared"
    return CompareResult(
        line=summary.line,
        sentence=words,
        blank=blank,
        headline="no category chosen",
        hint=HINT,
        cohort=summary,
        test_name=WEIGHTS[statement.weight].test,
        test=TestReadout(statistic=None, df=0, p=None, blank=why),
    )

"""Check: may the model be believed (methods.md, section 6: Residuals and checks)."""

from typing import Any

from pydantic import Field

from hourglass.analysis.check.checked import Checked
from hourglass.analysis.check.figure import check_figure
from hourglass.analysis.check.numbers import CheckNumbers
from hourglass.analysis.check.question import Question
from hourglass.analysis.check.questions import QUESTIONS
from hourglass.analysis.check.ratio_over_time import over_time
from hourglass.analysis.check.readouts import QuestionVerdict, TermCheck
from hourglass.analysis.check.row_sheet import values_section
from hourglass.analysis.check.sentence import check_sentence
from hourglass.analysis.check.statement import CheckStatement
from hourglass.analysis.check.weighed import PROPORTIONAL_HAZARDS
from hourglass.analysis.model.fit_numbers import fitted_again
from hourglass.analysis.model.readouts import ChiSquared
from hourglass.analysis.model.statement import ModelStatement
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.choices import ChoiceAct, ChoiceItem, Choices
from hourglass.analysis.shared.cohort_summary import CohortSummary, summarise
from hourglass.analysis.shared.curve_form import study_form
from hourglass.analysis.shared.declared import Statements, statement_of
from hourglass.analysis.shared.numbers import Refused
from hourglass.analysis.shared.result import StageResult
from hourglass.analysis.shared.section_ids import SectionId
from hourglass.analysis.shared.sections import Action, Section
from hourglass.analysis.shared.sentence import Sentence
from hourglass.analysis.shared.verdict import Verdict, doubtful, failed_or_doubted
from hourglass.cohort.followup import Cohort
from hourglass.core.errors import HourglassError, singular_refused
from hourglass.core.variants import variant

HINT = "choose a dot, or an underlined row, to see its values and its arithmetic"


class CheckResult(StageResult):
    """The checks of the model.

    Attributes:
        questions: the verdict on each; ``verdict``: the most serious of them.
        terms, together: the test of proportional hazards, whichever question is shown.
        refused: why there is nothing to check; blank where there is.
    """

    cohort: CohortSummary
    questions: list[QuestionVerdict] = Field(default_factory=list)
    terms: list[TermCheck] = Field(default_factory=list)
    together: ChiSquared | None = None
    verdict: Verdict
    refused: str = ""


def check_result(
    numbers: CheckNumbers | Refused, cohort: Cohort, statements: Statements
) -> CheckResult:
    """A question put to the model, with the verdict on all of them, as it is shown."""
    model_statement = statement_of(statements, ModelStatement)
    statement = statement_of(statements, CheckStatement)
    words = check_sentence(cohort, model_statement, statement)
    if isinstance(numbers, Refused):
        return _blank(cohort, words, numbers.why)
    fitted = fitted_again(cohort, model_statement.hazards_model, numbers.fit)
    under = Checked(
        cohort=cohort,
        model_statement=model_statement,
        statement=statement,
        fitted=fitted,
        form=study_form(statements).at_level(model_statement.confidence),
    )
    verdicts = [_verdict(q, under, numbers) for q in QUESTIONS]
    try:
        with singular_refused():
            answer = variant(QUESTIONS, statement.question).answer(
                under, numbers.of(statement.question)
            )
    except HourglassError as reason:
        return _blank(cohort, words, str(reason))
    tests = over_time(under, numbers.of(PROPORTIONAL_HAZARDS))
    model = f"Rate of {fitted.design.event} by {formatting.listed(list(fitted.design.terms))}"
    return CheckResult(
        line=model,
        sentence=words,
        figure=check_figure(cohort, answer, words.text),
        sections=[*answer.sections, *_in_spite(statement, verdicts), values_section()],
        choices=_line(statement, verdicts),
        headline=_headline(verdicts),
        hint=HINT,
        cohort=summarise(cohort),
        questions=verdicts,
        terms=tests.terms,
        together=tests.together,
        verdict=_most_serious(verdicts),
    )


def _in_spite(statement: CheckStatement, verdicts: list[QuestionVerdict]) -> list[Section]:
    """The offer to keep a model that the question shown doubts; a ratio over time is kept term by term."""
    shown = next(one for one in verdicts if one.key == statement.question)
    if not doubtful(shown.verdict) or shown.key == PROPORTIONAL_HAZARDS:
        return []
    keep = Action(
        sentence=f"Keep the model in spite of this doubt ({shown.name}: {shown.words}).",
        label="Keep, with a reason",
        do="decide",
        stage="check",
        about=f"doubt: {shown.key}",
    )
    return [Section(id=SectionId.KEEP, title="Keep the model", blocks=[keep])]


def _verdict(question: Question[Any], under: Checked, numbers: CheckNumbers) -> QuestionVerdict:
    found = question.verdict(under, numbers.of(question.key))
    return QuestionVerdict(
        key=question.key, name=question.name, verdict=found.verdict, words=found.words
    )


def _line(statement: CheckStatement, verdicts: list[QuestionVerdict]) -> Choices:
    """All questions with their verdict, the one shown among them."""
    return Choices(
        label="Questions",
        items=[
            ChoiceItem(
                words=formatting.capital(one.name),
                below=one.words,
                verdict=one.verdict,
                chosen=one.key == statement.question,
                opens=None
                if one.key == statement.question
                else ChoiceAct(
                    label=formatting.capital(one.name),
                    statement=statement.model_copy(update={"question": one.key}).model_dump(
                        mode="json"
                    ),
                ),
            )
            for one in verdicts
        ],
    )


GRAVITY: tuple[Verdict, ...] = ("unknown", "holds", "in doubt", "fails")


def _most_serious(verdicts: list[QuestionVerdict]) -> Verdict:
    return max((one.verdict for one in verdicts), key=GRAVITY.index, default="unknown")


def _headline(verdicts: list[QuestionVerdict]) -> str:
    found = [one for one in verdicts if doubtful(one.verdict)]
    if not found:
        return "nothing in doubt"
    if len(found) == 1:
        return f"{found[0].name}: {found[0].verdict}"
    return f"{failed_or_doubted([one.verdict for one in found])}, of {len(verdicts)} checks"


def _blank(cohort: Cohort, words: Sentence, why: str) -> CheckResult:
    summary = summarise(cohort)
    return CheckResult(
        line=summary.line,
        sentence=words,
        blank=f"There is nothing to check: {why}.",
        refused=why,
        headline="nothing to check yet",
        hint=HINT,
        cohort=summary,
        verdict="unknown",
    )

"""Check: does each ratio stay the same over time (methods.md, section 6: Residuals and checks)."""

import numpy as np
from pydantic import Field

from hourglass.analysis.check.courses import Course, course_of
from hourglass.analysis.check.figure import check_figure, course_track
from hourglass.analysis.check.readings import TermCheck
from hourglass.analysis.check.remedies import remedies
from hourglass.analysis.check.sections import check_sections
from hourglass.analysis.check.sentence import check_sentence
from hourglass.analysis.check.statement import CheckStatement
from hourglass.analysis.model.fitting import FittedModel, fit_model
from hourglass.analysis.model.readings import ChiSquared, chi_squared_reading
from hourglass.analysis.model.statement import ModelStatement
from hourglass.analysis.model.term_verdicts import term_verdicts
from hourglass.analysis.model.terms.forms import CategoryTerm
from hourglass.analysis.shared import wording
from hourglass.analysis.shared.cohort_summary import CohortSummary, summarise
from hourglass.analysis.shared.result import StageResult
from hourglass.analysis.shared.sentence import Sentence
from hourglass.analysis.shared.verdict import Verdict, course, doubtful, verdict, weakest
from hourglass.cohort.followup import Cohort
from hourglass.cohort.table import NoSuchColumnError
from hourglass.core.comparison.chi_squared import Test
from hourglass.core.errors import NotEstimableError
from hourglass.core.regression.proportionality import event_residuals, proportionality_test
from hourglass.core.regression.time_functions import TIME_FUNCTIONS
from hourglass.core.variants import variant
from hourglass.core.watch import Watch, unwatched

LARGEST_LOG_RATIO = 300.0
HINT = "each dot is one event: the ratio it speaks for by itself"


class CheckResult(StageResult):
    """The checks of the model."""

    cohort: CohortSummary
    terms: list[TermCheck] = Field(default_factory=list)
    together: ChiSquared | None = None
    verdict: Verdict


def check(
    cohort: Cohort, asked: ModelStatement, statement: CheckStatement, watch: Watch = unwatched
) -> CheckResult:
    """Test and draw the course over time of every ratio of the model."""
    words = check_sentence(statement)
    watch("fitting the model", 0.1)
    time_function = variant(TIME_FUNCTIONS, statement.time_function)
    try:
        fitted = fit_model(cohort, asked.hazards_model, watch)
        _require_showable(fitted)
        data, x = fitted.design.data, fitted.design.x
        residuals = event_residuals(data, x, fitted.fit)
        numbers = fitted.design.numbers[residuals.row]
        tested = proportionality_test(data, x, fitted.fit, time_function)
    except (ValueError, NoSuchColumnError) as reason:
        return _blank(cohort, words, f"There is nothing to check: {reason}.")
    watch("smoothing residuals", 0.7)
    terms, tracks, courses, offered = [], [], [], []
    for k, found in enumerate(term_verdicts(fitted.design, tested)):
        of, own = asked.terms[k], list[Course]()
        category = isinstance(of, CategoryTerm)
        for c in map(int, fitted.design.of_term(k)):
            if fitted.fit.fate[c] == "aliased":
                continue
            name = fitted.design.columns[c].label if category else found.label
            own.append(course_of(fitted, residuals, tested, c, name, asked.confidence))
            single = verdict(tested.column[c].p)
            said = _said(single, course(own[-1].smooth), tested.column[c].blank)
            tracks.append(course_track(own[-1], residuals, numbers, single, said))
        moves = ""
        if own:
            strongest = own[int(np.argmin([_p(tested.column[one.column]) for one in own]))]
            moves = course(strongest.smooth)
        term = TermCheck(
            label=found.label,
            name=of.column,
            test=chi_squared_reading(found.label, found.test),
            verdict=found.verdict,
            words=_said(found.verdict, moves, found.test.blank),
        )
        terms.append(term)
        courses += own
        if doubtful(found.verdict):
            offered += remedies(term, category=category)
    together = chi_squared_reading("all together", tested.together)
    model = f"Rate of {cohort.statement.event_name} by {wording.listed(list(fitted.design.terms))}"
    return CheckResult(
        line=model,
        sentence=words,
        figure=check_figure(cohort, tracks, words.text, asked.confidence),
        sections=check_sections(terms, together, courses, offered),
        headline=_headline(terms),
        hint=HINT,
        cohort=summarise(cohort),
        terms=terms,
        together=together,
        verdict=verdict(weakest([t.test.p for t in terms])),
    )


def _require_showable(fitted: FittedModel) -> None:
    for column, beta in zip(fitted.design.columns, fitted.fit.beta, strict=True):
        if abs(beta) > LARGEST_LOG_RATIO:
            raise NotEstimableError(
                f"the ratio of {column.label} is too far from 1 to be drawn; tell it per another unit"
            )


def _p(test: Test) -> float:
    return 1.0 if test.p is None else test.p


def _said(found: Verdict, move: str, blank: str | None) -> str:
    """A verdict in words: how a ratio in doubt moves, or why nothing can be told."""
    if found == "unknown":
        return blank or "cannot be told"
    return f"{found}, {move}" if doubtful(found) and move else found


def _headline(terms: list[TermCheck]) -> str:
    against = sum(doubtful(t.verdict) for t in terms)
    return f"{against} of {len(terms)} in doubt" if against else "no ratio in doubt"


def _blank(cohort: Cohort, words: Sentence, why: str) -> CheckResult:
    summary = summarise(cohort)
    return CheckResult(
        line=summary.line,
        sentence=words,
        blank=why,
        headline="nothing to check yet",
        hint=HINT,
        cohort=summary,
        verdict="unknown",
    )

"""Model: the rate of the event by several terms together
(methods.md, section 4: Proportional hazards regression)."""

from pydantic import Field

from hourglass.analysis.model.design import Design
from hourglass.analysis.model.figure import ratio_figure
from hourglass.analysis.model.fitting import fit_model, steps
from hourglass.analysis.model.in_words import in_words
from hourglass.analysis.model.ratios import alone_reading, ratio_reading
from hourglass.analysis.model.readings import (
    ChiSquared,
    CoefficientReading,
    LeftOutReading,
    TermReading,
    chi_squared_reading,
)
from hourglass.analysis.model.sections import model_sections
from hourglass.analysis.model.sentence import model_sentence
from hourglass.analysis.model.statement import CategoryTerm, ModelStatement
from hourglass.analysis.model.term_verdicts import TermVerdict, not_proportional, term_verdicts
from hourglass.analysis.shared import cautions, wording
from hourglass.analysis.shared.cohort_summary import CohortSummary, summarise
from hourglass.analysis.shared.result import StageResult
from hourglass.analysis.shared.sentence import Sentence
from hourglass.analysis.shared.typed import number
from hourglass.cohort.followup import Cohort
from hourglass.cohort.table import NoSuchColumnError
from hourglass.core.errors import NotEstimableError
from hourglass.core.regression.fit import fit
from hourglass.core.regression.fitted import HazardsFit
from hourglass.core.regression.proportionality import proportionality_test
from hourglass.core.regression.time_functions import ONE_MINUS_SURVIVAL, TimeFunction
from hourglass.core.watch import Watch, unwatched

HINT = "choose an underlined hazard ratio to see the sums it solves, event time by event time"


class ModelResult(StageResult):
    """The fitted model."""

    cohort: CohortSummary
    terms: list[TermReading] = Field(default_factory=list)
    tests: list[ChiSquared] = Field(default_factory=list)
    words: list[str] = Field(default_factory=list)
    rows: int = 0
    events: int = 0
    left_out: list[LeftOutReading] = Field(default_factory=list)
    rows_left_out: int = 0
    minus_two_log_likelihood: float | None = None
    aic: float | None = None
    bic: float | None = None
    iterations: int = 0
    decrement: float = 0.0
    condition: float | None = None


def model(
    cohort: Cohort,
    statement: ModelStatement,
    watch: Watch = unwatched,
    time_function: TimeFunction = ONE_MINUS_SURVIVAL,
) -> ModelResult:
    """Fit the model and read it, each term also alone.

    Args:
        time_function: that of Check, so that both say the same of a ratio that changes.
    """
    words, summary = model_sentence(cohort, statement), summarise(cohort)
    try:
        fitted = fit_model(cohort, statement, watch)
    except (ValueError, NoSuchColumnError) as reason:
        return _blank(summary, words, f"There is no model yet: {reason}.")
    coded, found = fitted.design, fitted.fit
    terms = _terms(coded, found, statement, watch)
    tests = [
        chi_squared_reading("Likelihood ratio", found.likelihood_ratio),
        chi_squared_reading("Wald", found.wald),
        chi_squared_reading("Score", found.score),
    ]
    said = in_words(cohort, statement.terms, coded, terms, statement.confidence)
    events = wording.grouped(found.events)
    return ModelResult(
        line=summary.line,
        sentence=words,
        figure=ratio_figure(terms, words.text),
        sections=model_sections(found, coded, terms, tests, said, cohort.rows_are),
        cautions=[
            *cautions.few_events(found.events, found.estimated),
            *not_proportional(_verdicts(coded, found, time_function)),
            *cautions.competing(cohort, "ratio"),
        ],
        headline=f"{wording.count(len(coded.terms), 'terms')} · {events} events",
        hint=HINT,
        cohort=summary,
        terms=terms,
        tests=tests,
        words=said,
        rows=found.size,
        events=found.events,
        left_out=[LeftOutReading.model_validate(o) for o in coded.left_out],
        rows_left_out=coded.rows_left_out,
        minus_two_log_likelihood=found.minus_two_log_likelihood,
        aic=found.aic,
        bic=found.bic,
        iterations=found.iterations,
        decrement=found.decrement,
        condition=number(found.condition),
    )


def _terms(
    coded: Design, found: HazardsFit, statement: ModelStatement, watch: Watch
) -> list[TermReading]:
    # Of a single term there is nothing to adjust for: alone it is what it is.
    alone = _alone(coded, watch) if len(coded.terms) > 1 else None
    terms = []
    for k, label in enumerate(coded.terms):
        positions, told = coded.of_term(k), []
        for c in map(int, positions):
            adjusted = ratio_reading(coded, found, c, statement.confidence)
            by_itself = (
                adjusted
                if alone is None
                else alone_reading(coded, alone[k], positions, c, statement.confidence)
            )
            column = coded.columns[c]
            told.append(
                CoefficientReading(
                    column=c,
                    label=column.label,
                    against=column.against,
                    told=column.told,
                    adjusted=adjusted,
                    alone=by_itself,
                )
            )
        term = statement.terms[k]
        category = isinstance(term, CategoryTerm)
        terms.append(
            TermReading(label=label, name=term.column, category=category, coefficients=told)
        )
    return terms


def _alone(coded: Design, watch: Watch) -> list[HazardsFit | None]:
    """Each term by itself, in the same rows as the whole model."""
    fits: list[HazardsFit | None] = []
    for k in range(len(coded.terms)):
        try:
            fits.append(fit(coded.data, coded.x[:, coded.of_term(k)], watch=steps(watch, 0.3)))
        except NotEstimableError:
            fits.append(None)
    return fits


def _verdicts(
    coded: Design, found: HazardsFit, time_function: TimeFunction
) -> tuple[TermVerdict, ...]:
    """What Check says of each term; nothing where it has nothing to say."""
    try:
        tested = proportionality_test(coded.data, coded.x, found, time_function)
    except NotEstimableError:
        return ()
    return term_verdicts(coded, tested)


def _blank(summary: CohortSummary, words: Sentence, why: str) -> ModelResult:
    return ModelResult(
        line=summary.line,
        sentence=words,
        blank=why,
        headline="no model yet",
        hint=HINT,
        cohort=summary,
    )

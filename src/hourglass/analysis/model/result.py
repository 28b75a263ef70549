"""Model: the rate of the event by several terms together
(methods.md, section 4: Proportional hazards regression)."""

from pydantic import Field

from hourglass.analysis.model.adjusted_shown import TITLE as ADJUSTED
from hourglass.analysis.model.adjusted_shown import adjusted_track
from hourglass.analysis.model.alone import fitted_alone
from hourglass.analysis.model.candidates import CANDIDATES, CAUSES
from hourglass.analysis.model.curve_tracks import curve_shapes, curve_tracks
from hourglass.analysis.model.distinguished import levels_drawn
from hourglass.analysis.model.figure import model_figure, ratio_track
from hourglass.analysis.model.fit_numbers import fitted_again
from hourglass.analysis.model.fitting import FittedModel
from hourglass.analysis.model.in_words import in_words
from hourglass.analysis.model.kept_models import kept_choices
from hourglass.analysis.model.kept_part import TITLE as KEPT
from hourglass.analysis.model.means_part import TITLE as MEANS_TITLE
from hourglass.analysis.model.medians_part import TITLE as MEDIANS_TITLE
from hourglass.analysis.model.medians_part import any_ratio_a_level
from hourglass.analysis.model.model_comparison import beside_of, beside_section
from hourglass.analysis.model.numbers import ModelNumbers
from hourglass.analysis.model.offers import adjusted_offer, means_offer
from hourglass.analysis.model.predictions import prediction_sections, prediction_tracks, predictions
from hourglass.analysis.model.reading_times import reading_times
from hourglass.analysis.model.readouts import (
    ChiSquared,
    LeftOutReadout,
    TermReadout,
    chi_squared_readout,
)
from hourglass.analysis.model.sections import model_sections
from hourglass.analysis.model.sentence import model_sentence
from hourglass.analysis.model.statement import ModelStatement
from hourglass.analysis.model.subgroup_forest import subgroup_track
from hourglass.analysis.model.term_readouts import ratios_of_terms, term_readouts
from hourglass.analysis.model.term_verdicts import TermVerdict, not_proportional, term_verdicts
from hourglass.analysis.shared import cautions, formatting
from hourglass.analysis.shared.cohort_summary import CohortSummary, summarise
from hourglass.analysis.shared.curve_form import study_form
from hourglass.analysis.shared.declared import Statements, statement_of
from hourglass.analysis.shared.frozen_model import number
from hourglass.analysis.shared.numbers import Refused
from hourglass.analysis.shared.result import StageResult
from hourglass.analysis.shared.section_ids import SectionId
from hourglass.analysis.shared.sections import Section
from hourglass.analysis.shared.sentence import Sentence
from hourglass.cohort.followup import Cohort
from hourglass.core.errors import HourglassError
from hourglass.core.regression.proportionality import ProportionalityTest

HINT = "choose an underlined hazard ratio to see the sums it solves, event time by event time"


class ModelResult(StageResult):
    """The fitted model."""

    cohort: CohortSummary
    terms: list[TermReadout] = Field(default_factory=list)
    tests: list[ChiSquared] = Field(default_factory=list)
    words: list[str] = Field(default_factory=list)
    ties: str = ""
    rows: int = 0
    events: int = 0
    left_out: list[LeftOutReadout] = Field(default_factory=list)
    rows_left_out: int = 0
    minus_two_log_likelihood: float | None = None
    aic: float | None = None
    bic: float | None = None
    iterations: int = 0
    decrement: float = 0.0
    condition: float | None = None


def model_result(
    numbers: ModelNumbers | Refused, cohort: Cohort, statements: Statements
) -> ModelResult:
    """The model as it is shown, each term also alone."""
    statement, of_study = statement_of(statements, ModelStatement), study_form(statements)
    words, summary = model_sentence(cohort, statement, of_study), summarise(cohort)
    if isinstance(numbers, Refused):
        return _blank(summary, statement, words, f"There is no model yet: {numbers.why}.")
    fitted = fitted_again(cohort, statement.hazards_model, numbers.fit)
    try:
        shown = ratios_of_terms(cohort, fitted)
    except HourglassError as reason:
        return _blank(summary, statement, words, f"There is no model yet: {reason}.")
    form = of_study.at_level(statement.confidence)
    coded, found = fitted.design, fitted.fit
    terms = term_readouts(fitted, shown, form.confidence, fitted_alone(fitted, numbers.alone))
    tests = [
        chi_squared_readout("Likelihood ratio", found.likelihood_ratio),
        chi_squared_readout("Wald", found.wald),
        chi_squared_readout("Score", found.score),
    ]
    other = beside_of(cohort, statement, of_study, numbers.beside)
    text = in_words(cohort, fitted, shown, terms, form.confidence)
    curves = curve_tracks(cohort, fitted, form.confidence)
    if curves:
        words = model_sentence(cohort, statement, of_study, curve_shapes(curves))
    levels = levels_drawn(cohort, statement)
    subjects = predictions(cohort, fitted, statement, form)
    predicted = [
        *prediction_tracks(cohort, statement, subjects, form, levels),
        *adjusted_track(numbers.adjusted, statement.adjusted),
    ]
    events = formatting.grouped(found.events)
    penalised = fitted.model.penalised
    return ModelResult(
        line=summary.line,
        sentence=words,
        figure=model_figure(
            cohort,
            words.text,
            [
                ratio_track(terms, form.ci, other),
                *subgroup_track(numbers.subgroups, fitted, form.confidence),
                *curves,
                *predicted,
            ],
            reading_times(cohort, statement)[-1] if predicted else None,
            levels,
        ),
        sections=[
            *([] if other is None else [beside_section(statement, fitted, terms, other)]),
            *model_sections(fitted, tests, text, cohort.rows_are),
            *prediction_sections(
                cohort, statement, subjects, reading_times(cohort, statement), form, levels
            ),
            *_parts(cohort, statement),
        ],
        choices=kept_choices(statement),
        cautions=[
            *cautions.few_events(found.events, found.estimated),
            *cautions.close_times(cohort),
            *not_proportional(_verdicts(fitted, numbers.over_time)),
            *cautions.competing(cohort, "ratio"),
        ],
        headline=f"{formatting.count(len(coded.terms), 'terms')} · {events} events",
        hint=HINT,
        cohort=summary,
        terms=terms,
        tests=tests,
        words=text,
        ties=found.ties.key,
        rows=coded.size,
        events=found.events,
        left_out=[LeftOutReadout.model_validate(o) for o in coded.left_out],
        rows_left_out=coded.rows_left_out,
        minus_two_log_likelihood=found.minus_two_log_likelihood,
        aic=None if penalised else found.aic,
        bic=None if penalised else found.bic,
        iterations=found.iterations,
        decrement=found.decrement,
        condition=number(found.condition),
    )


def _parts(cohort: Cohort, statement: ModelStatement) -> list[Section]:
    """The sections that take their time, where they are requested."""
    stated = (
        (SectionId.MEDIANS, MEDIANS_TITLE, any_ratio_a_level(statement)),
        (SectionId.MEANS, MEANS_TITLE, bool(statement.profiles)),
        (SectionId.ADJUSTED, ADJUSTED, bool(statement.adjusted)),
        (SectionId.CANDIDATES, CANDIDATES, bool(statement.candidates)),
        (SectionId.CAUSES, CAUSES, bool(cohort.competing) and not statement.cause),
        (SectionId.KEPT, KEPT, bool(statement.kept)),
    )
    offers = {SectionId.MEANS: means_offer(cohort), SectionId.ADJUSTED: adjusted_offer(cohort)}
    return [
        Section(id=key, title=title, place="main", part=key, offer=offers.get(key, ""))
        for key, title, there in stated
        if there
    ]


def _verdicts(fitted: FittedModel, tested: ProportionalityTest | None) -> tuple[TermVerdict, ...]:
    """What Check states about each term; nothing where it has nothing to state."""
    return () if tested is None else term_verdicts(fitted.design, tested)


def _blank(
    summary: CohortSummary, statement: ModelStatement, words: Sentence, why: str
) -> ModelResult:
    return ModelResult(
        choices=kept_choices(statement),
        line=summary.line,
        sentence=words,
        blank=why,
        headline="no model yet",
        hint=HINT,
        cohort=summary,
    )

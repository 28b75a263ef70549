"""Model: the rate of the event by several terms together
(methods.md, section 4: Proportional hazards regression)."""

from pydantic import Field

from hourglass.analysis.model.adjusted import TITLE as ADJUSTED
from hourglass.analysis.model.adjusted import adjusted_track
from hourglass.analysis.model.beside import beside_of, beside_section
from hourglass.analysis.model.candidates import CANDIDATES, CAUSES
from hourglass.analysis.model.curve_tracks import curve_shapes, curve_tracks
from hourglass.analysis.model.figure import model_figure, ratio_track
from hourglass.analysis.model.fitting import FittedModel, fit_model
from hourglass.analysis.model.in_words import in_words
from hourglass.analysis.model.kept_part import TITLE as KEPT
from hourglass.analysis.model.means_part import TITLE as MEANS_TITLE
from hourglass.analysis.model.medians_part import TITLE as MEDIANS_TITLE
from hourglass.analysis.model.medians_part import categories_told
from hourglass.analysis.model.predictions import prediction_sections, prediction_tracks, predictions
from hourglass.analysis.model.rail import rail
from hourglass.analysis.model.reading_times import reading_times
from hourglass.analysis.model.readings import (
    ChiSquared,
    LeftOutReading,
    TermReading,
    chi_squared_reading,
)
from hourglass.analysis.model.sections import model_sections
from hourglass.analysis.model.sentence import model_sentence
from hourglass.analysis.model.statement import ModelStatement
from hourglass.analysis.model.subgroup_forest import subgroup_track
from hourglass.analysis.model.term_readings import ratios_of_terms, term_readings
from hourglass.analysis.model.term_verdicts import TermVerdict, not_proportional, term_verdicts
from hourglass.analysis.model.told_apart import levels_drawn
from hourglass.analysis.shared import cautions, wording
from hourglass.analysis.shared.cohort_summary import CohortSummary, summarise
from hourglass.analysis.shared.curve_form import USUAL, CurveForm
from hourglass.analysis.shared.result import StageResult
from hourglass.analysis.shared.sections import Section
from hourglass.analysis.shared.sentence import Sentence
from hourglass.analysis.shared.typed import number
from hourglass.cohort.followup import Cohort
from hourglass.core.errors import HourglassError, NotEstimableError
from hourglass.core.regression.adjusted import SAMPLES
from hourglass.core.regression.time_functions import ONE_MINUS_SURVIVAL, TimeFunction
from hourglass.core.watch import Watch, unwatched

AT_ONCE = 5_000
"""Rows up to which the model is fitted again on samples without being asked."""
HINT = "choose an underlined hazard ratio to see the sums it solves, event time by event time"


class ModelResult(StageResult):
    """The fitted model."""

    cohort: CohortSummary
    terms: list[TermReading] = Field(default_factory=list)
    tests: list[ChiSquared] = Field(default_factory=list)
    words: list[str] = Field(default_factory=list)
    ties: str = ""
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
    form: CurveForm = USUAL,
) -> ModelResult:
    """Fit the model and read it, each term also alone.

    Args:
        form: that of the study's curves; the statement may state another level.
        time_function: that of Check, so that both say the same of a ratio that changes.
    """
    words, summary = model_sentence(cohort, statement, form), summarise(cohort)
    of_study, form = form, form.at_level(statement.confidence)
    try:
        fitted = fit_model(cohort, statement.hazards_model, watch)
        told = ratios_of_terms(cohort, fitted)
    except HourglassError as reason:
        return _blank(summary, statement, words, f"There is no model yet: {reason}.")
    coded, found = fitted.design, fitted.fit
    terms = term_readings(cohort, fitted, told, form.confidence, watch)
    tests = [
        chi_squared_reading("Likelihood ratio", found.likelihood_ratio),
        chi_squared_reading("Wald", found.wald),
        chi_squared_reading("Score", found.score),
    ]
    other = beside_of(cohort, statement, of_study, watch)
    said = in_words(cohort, fitted, told, terms, form.confidence)
    curves = curve_tracks(cohort, fitted, form.confidence)
    if curves:
        words = model_sentence(cohort, statement, of_study, curve_shapes(curves))
    levels = levels_drawn(cohort, statement)
    people = predictions(cohort, fitted, statement, form)
    predicted = [
        *prediction_tracks(cohort, statement, people, form, levels),
        *adjusted_track(cohort, fitted, statement, form),
    ]
    events = wording.grouped(found.events)
    penalised = fitted.penalised is not None
    return ModelResult(
        line=summary.line,
        sentence=words,
        figure=model_figure(
            cohort,
            words.text,
            [
                ratio_track(terms, form.ci, other),
                *subgroup_track(cohort, fitted, statement, form.confidence, watch),
                *curves,
                *predicted,
            ],
            reading_times(cohort, statement)[-1] if predicted else None,
            levels,
        ),
        sections=[
            *([] if other is None else [beside_section(statement, fitted, terms, other)]),
            *model_sections(fitted, tests, said, cohort.rows_are),
            *prediction_sections(
                cohort, statement, people, reading_times(cohort, statement), form, levels
            ),
            *_parts(cohort, statement),
        ],
        choices=rail(statement),
        cautions=[
            *cautions.few_events(found.events, found.estimated),
            *cautions.close_times(cohort),
            *not_proportional(_verdicts(fitted, time_function)),
            *cautions.competing(cohort, "ratio"),
        ],
        headline=f"{wording.count(len(coded.terms), 'terms')} · {events} events",
        hint=HINT,
        cohort=summary,
        terms=terms,
        tests=tests,
        words=said,
        ties=found.ties.key,
        rows=coded.size,
        events=found.events,
        left_out=[LeftOutReading.model_validate(o) for o in coded.left_out],
        rows_left_out=coded.rows_left_out,
        minus_two_log_likelihood=found.minus_two_log_likelihood,
        aic=None if penalised else found.aic,
        bic=None if penalised else found.bic,
        iterations=found.iterations,
        decrement=found.decrement,
        condition=number(found.condition),
    )


def _parts(cohort: Cohort, statement: ModelStatement) -> list[Section]:
    """The sections that take their time, where they are asked for."""
    asked = (
        ("medians", MEDIANS_TITLE, categories_told(statement)),
        ("means", MEANS_TITLE, bool(statement.profiles)),
        ("adjusted", ADJUSTED, bool(statement.adjusted)),
        ("candidates", CANDIDATES, bool(statement.candidates)),
        ("causes", CAUSES, bool(cohort.competing) and not statement.cause),
        ("kept", KEPT, bool(statement.kept)),
    )
    offer = f"Fit the model again on {SAMPLES} samples"
    offers = {"means": offer, "adjusted": offer if cohort.table.size > AT_ONCE else ""}
    return [
        Section(id=key, title=title, place="main", part=key, offer=offers.get(key, ""))
        for key, title, there in asked
        if there
    ]


def _verdicts(fitted: FittedModel, time_function: TimeFunction) -> tuple[TermVerdict, ...]:
    """What Check says of each term; nothing where it has nothing to say."""
    try:
        fitted.require_unpenalised()
        tested = fitted.proportionality(time_function)
    except NotEstimableError:
        return ()
    return term_verdicts(fitted.design, tested)


def _blank(
    summary: CohortSummary, statement: ModelStatement, words: Sentence, why: str
) -> ModelResult:
    return ModelResult(
        choices=rail(statement),
        line=summary.line,
        sentence=words,
        blank=why,
        headline="no model yet",
        hint=HINT,
        cohort=summary,
    )

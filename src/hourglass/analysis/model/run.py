"""Model: the rate of the event by several terms together
(methods.md, section 4: Proportional hazards regression)."""

import math
from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
from pydantic import Field

from hourglass.analysis import cautions, wording
from hourglass.analysis.cautions import Caution
from hourglass.analysis.context import CohortSummary, summarise
from hourglass.analysis.design import Design, design
from hourglass.analysis.model_sentence import model_sentence
from hourglass.analysis.sentence import Sentence
from hourglass.analysis.statements import ModelStatement
from hourglass.analysis.typed import Typed, number, ratio_of
from hourglass.analysis.verdict import TermVerdict, term_verdicts
from hourglass.analysis.watch import Watch, unwatched
from hourglass.cohort.followup import Cohort
from hourglass.cohort.table import NoSuchColumnError
from hourglass.core.comparison import Test, chi_squared
from hourglass.core.errors import NotEstimableError
from hourglass.core.regression.concordance import concordance
from hourglass.core.regression.fit import Fate, HazardsFit, fit
from hourglass.core.regression.profile import finite_limit
from hourglass.core.regression.proportionality import Clock, proportionality_test

RUNNING = ("to +infinity", "to -infinity")


class ChiSquared(Typed):
    """A named test; without a statistic ``blank`` says why."""

    name: str
    statistic: float | None
    df: int
    p: float | None
    blank: str | None


class RatioReading(Typed):
    """A hazard ratio with its interval; null where there is none, ``note`` saying why."""

    ratio: float | None
    lower: float | None
    upper: float | None
    p: float | None
    beta: float | None
    standard_error: float | None
    fate: Fate
    note: str


class CoefficientReading(Typed):
    """One coefficient: adjusted for the other terms, and on its own in the same rows."""

    column: int
    label: str
    against: str
    adjusted: RatioReading
    alone: RatioReading


class TermReading(Typed):
    """A term with its coefficients and the test of leaving it out."""

    label: str
    name: str
    leaving_out: ChiSquared
    coefficients: list[CoefficientReading]


class LeftOutReading(Typed):
    """Rows left out for want of a value."""

    column: str
    rows: int


class ModelResult(Typed):
    """The fitted model; ``blank`` says why there is none."""

    cohort: CohortSummary
    sentence: Sentence
    blank: str | None
    headline: str
    terms: list[TermReading] = Field(default_factory=list)
    tests: list[ChiSquared] = Field(default_factory=list)
    rows: int = 0
    events: int = 0
    left_out: list[LeftOutReading] = Field(default_factory=list)
    rows_left_out: int = 0
    concordance: float | None = None
    concordance_error: float | None = None
    minus_two_log_likelihood: float | None = None
    aic: float | None = None
    bic: float | None = None
    events_per_coefficient: float | None = None
    iterations: int = 0
    decrement: float = 0.0
    condition: float | None = None
    words: list[str] = Field(default_factory=list)
    cautions: list[Caution] = Field(default_factory=list)


@dataclass(frozen=True, slots=True)
class FittedModel:
    """A design with its fit; shared by Model, Check and their workings."""

    design: Design
    fit: HazardsFit


def fit_model(cohort: Cohort, statement: ModelStatement, watch: Watch = unwatched) -> FittedModel:
    """Fit the statement's model.

    Raises:
        NotEstimableError, UnusableTermError, NoSuchColumnError: when there is no such model.
    """
    coded = design(cohort, statement)
    if coded.x.shape[1] == 0:
        raise NotEstimableError("add a term to fit a model")
    return FittedModel(coded, fit(coded.data, coded.x, watch=_steps(watch, 0.1)))


def model(
    cohort: Cohort,
    statement: ModelStatement,
    watch: Watch = unwatched,
    clock: Clock = "one minus survival",
) -> ModelResult:
    """Fit the model and read it, each term also alone and left out.

    Args:
        clock: how Check measures time, so that both say the same of a ratio that changes.
    """
    words = model_sentence(cohort, statement)
    try:
        fitted = fit_model(cohort, statement, watch)
    except (ValueError, NoSuchColumnError) as reason:
        return _blank(cohort, words, f"There is no model yet: {reason}.")
    coded, found = fitted.design, fitted.fit
    # Of a single term there is nothing to adjust for: alone it is what it is.
    alone = _alone(coded, watch) if len(coded.terms) > 1 else None
    terms = []
    for k, label in enumerate(coded.terms):
        watch(f"leaving out {label}", 0.5 + 0.3 * k / len(coded.terms))
        positions = coded.of_term(k)
        adjusted = {int(c): _ratio(coded, found, int(c), statement.level) for c in positions}
        terms.append(
            TermReading(
                label=label,
                name=statement.terms[k].column,
                leaving_out=_leaving_out(coded, found, positions, label),
                coefficients=[
                    CoefficientReading(
                        column=int(c),
                        label=coded.columns[c].label,
                        against=coded.columns[c].against,
                        adjusted=adjusted[int(c)],
                        alone=adjusted[int(c)]
                        if alone is None
                        else _alone_ratio(coded, alone[k], positions, int(c), statement.level),
                    )
                    for c in positions
                ],
            )
        )
    watch("ordering pairs", 0.85)
    order = concordance(coded.data, found.linear)
    estimated = sum(f != "aliased" for f in found.fate)
    return ModelResult(
        cohort=summarise(cohort),
        sentence=words,
        blank=None,
        terms=terms,
        tests=[
            chi_squared_reading("Likelihood ratio", found.likelihood_ratio),
            chi_squared_reading("Wald", found.wald),
            chi_squared_reading("Score", found.score),
        ],
        rows=found.size,
        events=found.events,
        left_out=[LeftOutReading.model_validate(o) for o in coded.left_out],
        rows_left_out=coded.rows_left_out,
        concordance=order.value,
        concordance_error=order.standard_error,
        minus_two_log_likelihood=-2 * found.value,
        aic=-2 * found.value + 2 * estimated,
        bic=-2 * found.value + estimated * math.log(found.events),
        events_per_coefficient=found.events / estimated if estimated else None,
        iterations=found.iterations,
        decrement=found.decrement,
        condition=number(found.condition),
        words=_in_words(cohort, coded, terms, statement.level),
        cautions=[
            *cautions.few_events(found.events, estimated),
            *cautions.not_proportional(_verdicts(coded, found, clock)),
            *cautions.competing(cohort, "ratio"),
        ],
        headline=f"{wording.count(len(coded.terms), 'terms')} · {found.events:,} events",
    )


def chi_squared_reading(name: str, test: Test) -> ChiSquared:
    """A core test as it crosses the edge."""
    return ChiSquared(
        name=name, statistic=number(test.statistic), df=test.df, p=number(test.p), blank=test.blank
    )


def _steps(watch: Watch, start: float) -> Callable[[int], None]:
    return lambda iteration: watch(f"fitting, step {iteration}", min(start + 0.05 * iteration, 0.5))


def _alone(coded: Design, watch: Watch) -> list[HazardsFit | None]:
    """Each term by itself, in the same rows as the whole model."""
    fits: list[HazardsFit | None] = []
    for k in range(len(coded.terms)):
        try:
            fits.append(fit(coded.data, coded.x[:, coded.of_term(k)], watch=_steps(watch, 0.3)))
        except NotEstimableError:
            fits.append(None)
    return fits


def _leaving_out(coded: Design, found: HazardsFit, positions: np.ndarray, label: str) -> ChiSquared:
    rest = np.setdiff1d(np.arange(coded.x.shape[1]), positions)
    without = fit(coded.data, coded.x[:, rest]) if rest.size else None
    value = found.value_at_zero if without is None else without.value
    kept = sum(f != "aliased" for f in found.fate)
    df = kept - (0 if without is None else sum(f != "aliased" for f in without.fate))
    if df == 0:
        blank = Test(None, 0, None, "it adds nothing to the other terms")
        return chi_squared_reading(label, blank)
    return chi_squared_reading(label, chi_squared(max(2 * (found.value - value), 0.0), df))


def _ratio(coded: Design, found: HazardsFit, column: int, level: float) -> RatioReading:
    fate = found.fate[column]
    if fate == "finite":
        lower, upper = found.interval(level)
        beta = float(found.beta[column])
        return RatioReading(
            ratio=ratio_of(beta),
            lower=ratio_of(lower[column]),
            upper=ratio_of(upper[column]),
            p=number(float(found.p[column])),
            beta=beta,
            standard_error=float(found.standard_error[column]),
            fate=fate,
            note="",
        )
    if fate == "aliased":
        why = next(a.reason for a in found.aliased if a.column == column)
        return _no_ratio(fate, f"left out: {why}")
    undetermined = "not determined: these rows fit any ratio equally well"
    if fate == "undetermined":
        return _no_ratio(fate, undetermined)
    limit = finite_limit(coded.data, coded.x, found, column, level)
    end = None if limit is None else ratio_of(limit)
    return _no_ratio(
        fate,
        _running_words(coded, found, column),
        lower=end if fate == "to +infinity" else None,
        upper=end if fate == "to -infinity" else None,
    )


def _running_words(coded: Design, found: HazardsFit, column: int) -> str:
    """Why a ratio runs away: by itself, or with others whose ratios do."""
    others = [
        coded.columns[k].named
        for k, fate in enumerate(found.fate)
        if fate in RUNNING and k != column
    ]
    rising = found.fate[column] == "to +infinity"
    end = "the ratio grows without bound" if rising else "the ratio falls to 0"
    if others:
        named = wording.listed(others)
        return f"a combination with {named} puts every event first among those at risk: {end}"
    extreme = "larger" if rising else "smaller"
    return f"at every event nobody at risk has a {extreme} value: {end}"


def _alone_ratio(
    coded: Design, alone: HazardsFit | None, positions: np.ndarray, column: int, level: float
) -> RatioReading:
    if alone is None:
        return _no_ratio("aliased", "not estimable")
    columns = tuple(coded.columns[k] for k in positions)
    own = replace(coded, x=coded.x[:, positions], columns=columns)
    return _ratio(own, alone, int(np.flatnonzero(positions == column)[0]), level)


def _no_ratio(
    fate: Fate, note: str, lower: float | None = None, upper: float | None = None
) -> RatioReading:
    return RatioReading(
        ratio=None,
        lower=lower,
        upper=upper,
        p=None,
        beta=None,
        standard_error=None,
        fate=fate,
        note=note,
    )


def _verdicts(coded: Design, found: HazardsFit, clock: Clock) -> tuple[TermVerdict, ...]:
    """What Check says of each term; nothing where it has nothing to say."""
    try:
        return term_verdicts(coded, proportionality_test(coded.data, coded.x, found, clock))
    except NotEstimableError:
        return ()


def _in_words(cohort: Cohort, coded: Design, terms: list[TermReading], level: float) -> list[str]:
    rows, event = cohort.rows_are, cohort.statement.event_name
    others = ", other terms equal" if len(terms) > 1 else ""
    said = []
    for term in terms:
        for c in term.coefficients:
            a = c.adjusted
            if a.ratio is None:
                continue
            interval = (
                f"({wording.level_percent(level)} interval "
                f"{wording.ratio(a.lower)} to {wording.ratio(a.upper)})"
            )
            if c.label == term.name:
                whom = f"{event} comes at {wording.ratio(a.ratio)} times the rate"
                per = c.against.replace("per", "for every")
                per = f"{per} of" if "doubling" in per else f"{per} more of"
                said.append(f"At any moment {whom} {per} {term.name} {interval}{others}.")
            else:
                said.append(
                    f"At any moment, {rows} with {coded.columns[c.column].named} come to {event} at "
                    f"{wording.ratio(a.ratio)} times the rate of those with {c.against} "
                    f"{interval}{others}."
                )
    return said


def _blank(cohort: Cohort, words: Sentence, why: str) -> ModelResult:
    return ModelResult(cohort=summarise(cohort), sentence=words, blank=why, headline="no model yet")

"""Workings of a hazard ratio: the score and information that the estimate solves."""

import math
from collections.abc import Mapping
from typing import Annotated

import numpy as np
from pydantic import Field

from hourglass.analysis.catalogue.ties import TIE_METHODS
from hourglass.analysis.model.fitting import FittedModel, fit_parted
from hourglass.analysis.model.likelihood_workings import BY_ROW, STEPS
from hourglass.analysis.model.likelihood_workings import WORKINGS as LIKELIHOOD
from hourglass.analysis.model.statement import ModelStatement
from hourglass.analysis.model.subjects import SUBJECTS
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.curve_form import study_form
from hourglass.analysis.shared.declared import statement_of
from hourglass.analysis.shared.frozen_model import FrozenModel, ratio_of
from hourglass.analysis.shared.statement import StageStatement
from hourglass.analysis.shared.subject_workings import subjects_of
from hourglass.analysis.shared.workings import (
    ExplainedNumber,
    NoWorkingsError,
    Workings,
    decimal,
    digits,
    whole,
)
from hourglass.cohort.followup import Cohort
from hourglass.core.errors import NotEstimableError
from hourglass.core.normal import normal_quantile
from hourglass.core.regression.exact_terms import exact_score_terms
from hourglass.core.regression.score_terms import score_terms
from hourglass.core.regression.ties import EXACT


def hazard_ratio_workings(fitted: FittedModel, column: int, confidence: float) -> Workings:
    """exp(β̂) with its interval, and the sums over event times that make β̂ the maximum."""
    found, coded = fitted.fit, fitted.design
    if not 0 <= column < len(coded.columns) or found.status[column] != "finite":
        raise NoWorkingsError("this coefficient has no finite estimate to work out")
    rule = TIE_METHODS[found.ties.key]
    named = coded.columns[column]
    beta, error = float(found.beta[column]), float(found.standard_error[column])
    of, shown = coded.stated_terms[named.term], named.comparison
    unit = of.ratio_unit
    times = "" if unit == 1 else f"{digits(unit)} "
    shown = of.unit_label if unit != 1 else shown
    by_time = exact_score_terms if found.ties is EXACT else score_terms
    terms = by_time(coded.data, coded.x, found, column)
    total = _clean(terms.score.sum())
    formula = [
        f"hazard ratio {shown} = exp({times}β̂) = exp({times}{'× ' if times else ''}{digits(beta)}) = "
        f"{digits(ratio_of(unit * beta))}",
        _interval_words(fitted, column, confidence, unit),
        f"{_test_words(fitted)}, |β̂| / se = {digits(abs(beta) / error)}, "
        f"{formatting.exact_p(fitted.p(column))}",
        "β̂ is where Σ (sum over the events of x − d x̄) = 0, x̄ the mean of x among those at risk, "
        f"each weighing exp(xβ̂): the last column but one sums to {digits(total)}"
        if not fitted.model.penalised
        else "β̂ is where Σ (sum over the events of x − d x̄) and the slope of the penalty ½ ln |I| add up "
        f"to 0: the last column but one sums to {digits(total)}",
        _error_words(fitted, column, float(terms.information.sum())),
    ]
    return Workings(
        title=f"Hazard ratio of {named.label}, {shown}: {formatting.ratio(ratio_of(unit * beta))}",
        formula=tuple(formula),
        columns=(
            decimal("time", "time", terms.time, subjects_of(None)),
            whole("events", "events d", terms.events),
            whole("at_risk", "at risk n", terms.at_risk),
            decimal("sum", "sum of x over events", terms.sum),
            decimal("mean", "mean x̄ at risk", terms.mean),
            decimal("score", "sum − d x̄", terms.score),
            decimal("information", "information", terms.information),
        ),
        note=f"Cox (1972, 1975); {rule.workings}. A hazard ratio compares rates: it is not a "
        "probability, nor a share of people.",
        more=(
            ("ln L by event time" if found.ties is EXACT else "ln L by row", BY_ROW),
            ("Newton's steps", STEPS),
        ),
    )


def _interval_words(fitted: FittedModel, column: int, confidence: float, unit: float) -> str:
    """How the limits arise: from the standard error, or from the profile of the likelihood."""
    beta, error = float(fitted.fit.beta[column]), float(fitted.fit.standard_error[column])
    z = normal_quantile(confidence)
    times = "" if unit == 1 else f"{digits(unit)} "
    if not fitted.model.penalised and fitted.model.intervals == "standard error":
        return (
            f"interval = exp({times}(β̂ ± z se)), z = {digits(z)}, se = {digits(error)}: "
            f"{digits(ratio_of(unit * (beta - z * error)))} to "
            f"{digits(ratio_of(unit * (beta + z * error)))}"
        )
    try:
        lower, upper = fitted.limits(column, confidence)
    except NotEstimableError as why:
        return f"no interval: {why}"
    shown = [digits(ratio_of(unit * v)) if math.isfinite(v) else "no limit" for v in (lower, upper)]
    of = "penalised profile" if fitted.model.penalised else "profile"
    return (
        f"interval = exp of {times}b, for all b with 2 (ℓ(β̂) − ℓ_p(b)) ≤ z² = {digits(z * z)}, ℓ_p the "
        f"{of} likelihood, the largest with this coefficient held at b: {shown[0]} to {shown[1]}"
    )


def _test_words(fitted: FittedModel) -> str:
    if fitted.model.penalised:
        return "p by the penalised likelihood ratio"
    return "p = 2 Φ(−|β̂| / se)"


def _error_words(fitted: FittedModel, column: int, total: float) -> str:
    """Where the standard error comes from."""
    error = float(fitted.fit.standard_error[column])
    if fitted.model.robust is not None:
        return (
            f"se² = {digits(error**2)} is robust: Σ D², D the sum of the changes of this coefficient "
            "when each row of a cluster is left out (Lin & Wei 1989)"
        )
    if len(fitted.design.columns) == 1:
        return f"se = 1 / √information = 1 / √{digits(total)} = {digits(1 / math.sqrt(total))}"
    return (
        f"information about this coefficient alone = {digits(total)}; with the other "
        f"terms in the model se² = {digits(error**2)}, from the inverse of the whole matrix"
    )


def _clean(value: float) -> float:
    return 0.0 if abs(value) < 1e-9 else float(np.round(value, 12))


class OfColumn(FrozenModel):
    """A coefficient, by its place."""

    column: Annotated[int, Field(ge=0)]


def _hazard_ratio(
    cohort: Cohort, stated: Mapping[str, StageStatement], about: OfColumn
) -> Workings:
    statement = statement_of(stated, ModelStatement)
    level = study_form(stated).at_level(statement.confidence).confidence
    return hazard_ratio_workings(fit_parted(cohort, statement.hazards_model), about.column, level)


WORKINGS = (ExplainedNumber("hazard-ratio", OfColumn, _hazard_ratio), *LIKELIHOOD, SUBJECTS)

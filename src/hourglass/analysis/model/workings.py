"""Workings of a hazard ratio: the score and information that the estimate solves."""

import math
from collections.abc import Mapping
from typing import Annotated, cast

import numpy as np
from pydantic import Field

from hourglass.analysis.model.fitting import FittedModel, fit_model
from hourglass.analysis.model.statement import ModelStatement
from hourglass.analysis.shared import wording
from hourglass.analysis.shared.statement import StageStatement
from hourglass.analysis.shared.typed import Typed, ratio_of
from hourglass.analysis.shared.workings import (
    NoWorkingsError,
    WorkedFigure,
    Workings,
    decimal,
    digits,
    whole,
)
from hourglass.cohort.followup import Cohort
from hourglass.core.normal import normal_quantile
from hourglass.core.regression.score_terms import score_terms


def hazard_ratio_workings(fitted: FittedModel, column: int, confidence: float) -> Workings:
    """exp(β̂) with its interval, and the sums over event times that make β̂ the maximum."""
    found, coded = fitted.fit, fitted.design
    if not 0 <= column < len(coded.columns) or found.fate[column] != "finite":
        raise NoWorkingsError("this coefficient has no finite estimate to work out")
    named = coded.columns[column]
    beta, error = float(found.beta[column]), float(found.standard_error[column])
    z = normal_quantile(confidence)
    terms = score_terms(coded.data, coded.x, found, column)
    alone = len(coded.columns) == 1
    total = float(terms.information.sum())
    formula = [
        f"hazard ratio = exp(β̂) = exp({digits(beta)}) = {digits(ratio_of(beta))}",
        f"interval = exp(β̂ ± z se), z = {digits(z)}, se = {digits(error)}: "
        f"{digits(ratio_of(beta - z * error))} to {digits(ratio_of(beta + z * error))}",
        f"p = 2 Φ(−|β̂| / se) = 2 Φ(−{digits(abs(beta) / error)}), "
        f"{wording.p_phrase(float(found.p[column]))}",
        "β̂ is where Σ (sum over the events of x − d x̄) = 0, x̄ the mean of x among those at risk, "
        f"each weighing exp(xβ̂): the last column but one sums to {digits(_clean(terms.score.sum()))}",
        (
            f"se = 1 / √information = 1 / √{digits(total)} = {digits(1 / math.sqrt(total))}"
            if alone
            else f"information about this coefficient alone = {digits(total)}; with the other "
            f"terms in the model se² = {digits(error**2)}, from the inverse of the whole matrix"
        ),
    ]
    return Workings(
        title=f"Hazard ratio of {named.label}, {named.told}: {wording.ratio(ratio_of(beta))}",
        formula=tuple(formula),
        columns=(
            decimal("time", "time", terms.time),
            whole("events", "events d", terms.events),
            whole("at_risk", "at risk n", terms.at_risk),
            decimal("sum", "sum of x over events", terms.sum),
            decimal("mean", "mean x̄ at risk", terms.mean),
            decimal("score", "sum − d x̄", terms.score),
            decimal("information", "information", terms.information),
        ),
        note="Cox (1972, 1975); ties by Efron (1977): among d tied events x̄ and the information "
        "are the mean and the sum over the d factors. A hazard ratio compares rates: it is not a "
        "probability, nor a share of people.",
    )


def _clean(value: float) -> float:
    return 0.0 if abs(value) < 1e-9 else float(np.round(value, 12))


class OfColumn(Typed):
    """A coefficient, by its place."""

    column: Annotated[int, Field(ge=0)]


def _hazard_ratio(cohort: Cohort, asked: Mapping[str, StageStatement], about: OfColumn) -> Workings:
    statement = cast(ModelStatement, asked["model"])
    return hazard_ratio_workings(
        fit_model(cohort, statement.hazards_model), about.column, statement.confidence
    )


WORKINGS = (WorkedFigure("hazard-ratio", OfColumn, _hazard_ratio),)

"""Workings of a hazard ratio: the score and information that the estimate solves."""

import math

import numpy as np

from hourglass.analysis import wording
from hourglass.analysis.model import FittedModel
from hourglass.analysis.typed import ratio_of
from hourglass.analysis.workings.sheet import (
    NoWorkingsError,
    Workings,
    decimal,
    digits,
    table_of,
    whole,
)
from hourglass.core.regression.score_terms import score_terms
from hourglass.core.survival import normal_quantile


def hazard_ratio_workings(fitted: FittedModel, column: int, level: float) -> Workings:
    """exp(β̂) with its interval, and the sums over event times that make β̂ the maximum."""
    found, coded = fitted.fit, fitted.design
    if not 0 <= column < len(coded.columns) or found.fate[column] != "finite":
        raise NoWorkingsError("this coefficient has no finite estimate to work out")
    named = coded.columns[column]
    against = named.against if named.against.startswith("per ") else f"against {named.against}"
    beta, error = float(found.beta[column]), float(found.standard_error[column])
    z = normal_quantile(level)
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
        title=f"Hazard ratio of {named.label}, {against}: {wording.ratio(ratio_of(beta))}",
        formula=formula,
        columns=[
            decimal("time", "time"),
            whole("events", "events d"),
            whole("at_risk", "at risk n"),
            decimal("sum", "sum of x over events"),
            decimal("mean", "mean x̄ at risk"),
            decimal("score", "sum − d x̄"),
            decimal("information", "information"),
        ],
        rows=table_of(
            terms.time,
            terms.events,
            terms.at_risk,
            terms.sum,
            terms.mean,
            terms.score,
            terms.information,
        ),
        note="Cox (1972, 1975); ties by Efron (1977): among d tied events x̄ and the information "
        "are the mean and the sum over the d factors. A hazard ratio compares rates: it is not a "
        "probability, nor a share of people.",
    )


def _clean(value: float) -> float:
    return 0.0 if abs(value) < 1e-9 else float(np.round(value, 12))

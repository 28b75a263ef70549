"""Workings of Check's tests over time: a scaled residual, and the test from residuals by event time."""

from collections.abc import Mapping
from typing import Annotated

import numpy as np
from pydantic import Field

from hourglass.analysis.catalogue.time_functions import TIME_FUNCTIONS
from hourglass.analysis.check.checked import Checked
from hourglass.analysis.check.mean_at_risk import OfResidual, opens_mean
from hourglass.analysis.check.row_workings import under_check
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.frozen_model import FrozenModel
from hourglass.analysis.shared.statement import StageStatement
from hourglass.analysis.shared.subject_workings import subjects_of
from hourglass.analysis.shared.workings import (
    ExplainedNumber,
    NoWorkingsError,
    TermColumn,
    Workings,
    decimal,
    digits,
    whole,
)
from hourglass.cohort.followup import Cohort
from hourglass.core.arrays import FloatArray
from hourglass.core.comparison.chi_squared import Test
from hourglass.core.regression.proportionality import event_residuals, proportionality_test
from hourglass.core.regression.score_terms import information_terms, score_terms


class OfTest(FrozenModel):
    """A coefficient whose test is worked out, by its place."""

    column: Annotated[int, Field(ge=0)]


def scaled_workings(under: Checked, row: int, column: int) -> Workings:
    """β̂ + D Σ Var(β̂) s of one event: the product of the matrix and the residuals, written out."""
    _require(under, column)
    coded, fit = under.fitted.design, under.fitted.plain
    residuals = event_residuals(coded.data, coded.x, fit)
    found = np.flatnonzero(coded.numbers[residuals.row] == row)
    if not found.size:
        raise NoWorkingsError(f"row {row} has no event in this model")
    at, kept = int(found[0]), np.flatnonzero(under.at.kept)
    events = int(residuals.count.sum())
    s, v = residuals.residual[at, kept], fit.covariance[column, kept]
    beta, scaled = float(fit.beta[column]), float(residuals.scaled[at, column])
    named = coded.columns[column].named
    time = formatting.time(float(residuals.time[at]), under.cohort.decimals)
    return Workings(
        title=f"Row {row}: scaled residual of {named} {digits(scaled)}",
        formula=(
            f"event at {time} {under.cohort.statement.unit}; D = {formatting.grouped(events)} events",
            "s = x − x̄, x̄ the mean at risk at that time, each weighing exp(xβ̂) (the mean over the factors)",
            f"scaled = β̂ + D Σ_m Var(β̂)_km s_m = {digits(beta)} + {events} × {digits(float(v @ s))} = "
            f"{digits(scaled)}",
            f"as a ratio: exp of it = {digits(float(np.exp(np.clip(scaled, -700, 700))))}",
        ),
        columns=(
            whole("coefficient", "m", np.arange(1, kept.size + 1)),
            decimal("value", "x", coded.x[residuals.row[at], kept]),
            decimal("residual", "s", s),
            decimal("covariance", "Var(β̂)_km", v),
            decimal("product", "product", v * s),
        ),
        note="Schoenfeld (1982); scaled by Grambsch & Therneau (1994). Coefficients in the order of the "
        "model: "
        + ", ".join(f"{k + 1} {coded.columns[c].named}" for k, c in enumerate(kept))
        + ".",
        more=tuple(
            (f"x̄ of {coded.columns[c].named} at risk", opens_mean(row, int(c))) for c in kept
        ),
    )


def test_workings(under: Checked, column: int) -> Workings:
    """The score test of θ = 0 in β + θ g(t), from the residuals and information of each event time."""
    _require(under, column)
    coded, fit = under.fitted.design, under.fitted.plain
    key = under.statement.time_function
    tested = proportionality_test(coded.data, coded.x, fit, TIME_FUNCTIONS[key].method)
    terms = score_terms(coded.data, coded.x, fit, column)
    kept = np.flatnonzero(under.at.kept)
    beside = information_terms(coded.data, coded.x, fit, column)[:, kept]
    own = int(np.flatnonzero(kept == column)[0])
    g = tested.g
    u = float(g @ terms.score)
    theta_theta = float(g**2 @ beside[:, own])
    theta_beta = g @ beside
    whole_information = np.linalg.inv(fit.covariance[np.ix_(kept, kept)])
    taken = float(theta_beta @ np.linalg.solve(whole_information, theta_beta))
    test: Test = tested.column[column]
    named = coded.columns[column].named
    return Workings(
        title=f"Proportional hazards test of {named}: χ² {formatting.statistic(test.statistic)}",
        formula=(
            f"g is {TIME_FUNCTIONS[key].name} at each event time; s the sum of its events' residuals x − x̄",
            f"U = Σ g s = {digits(u)}",
            f"I_θθ = Σ g² V = {digits(theta_theta)}, V the information of the coefficient at each time",
            f"I_θβ = Σ g V of the coefficient with every other: "
            f"{', '.join(digits(float(v)) for v in theta_beta)}",
            f"I_θβ I_ββ⁻¹ I_βθ = {digits(taken)}, I_ββ⁻¹ = Var(β̂)",
            f"χ² = U² / (I_θθ − that) = "
            f"{digits(u * u / (theta_theta - taken)) if theta_theta > taken else '—'}, "
            f"{formatting.exact_p(test.p)}",
        ),
        columns=(
            decimal("time", "time", terms.time, subjects_of(None)),
            whole("events", "events d", terms.events),
            decimal("g", "g", g),
            decimal("score", "s", terms.score),
            decimal("g_score", "g s", g * terms.score),
            *_with_others(under, beside, kept),
        ),
        note="Grambsch & Therneau (1994), the full score test: it equals that of rows split at every "
        "event time.",
    )


def _with_others(under: Checked, beside: FloatArray, kept: np.ndarray) -> list[TermColumn]:
    columns = under.fitted.design.columns
    return [
        decimal(f"information_{k + 1}", f"V with {columns[c].named}", beside[:, k])
        for k, c in enumerate(kept)
    ]


def _require(under: Checked, column: int) -> None:
    if column >= under.at.kept.size or not under.at.kept[column]:
        raise NoWorkingsError("there is no such coefficient in the model")


def _scaled(cohort: Cohort, stated: Mapping[str, StageStatement], about: OfResidual) -> Workings:
    return scaled_workings(under_check(cohort, stated), about.row, about.column)


def _test(cohort: Cohort, stated: Mapping[str, StageStatement], about: OfTest) -> Workings:
    return test_workings(under_check(cohort, stated), about.column)


SCALED = ExplainedNumber("scaled-residual", OfResidual, _scaled)
TEST = ExplainedNumber("proportionality", OfTest, _test)

"""Workings of the likelihood: row by row at any coefficients, and Newton's steps to its maximum."""

from collections.abc import Mapping, Sequence
from typing import Annotated

import numpy as np
from pydantic import Field

from hourglass.analysis.catalogue.ties import TIE_METHODS
from hourglass.analysis.model.fitting import FittedModel, fit_parted
from hourglass.analysis.model.statement import ModelStatement
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.cell import WorkingsOf
from hourglass.analysis.shared.declared import statement_of
from hourglass.analysis.shared.frozen_model import FrozenModel
from hourglass.analysis.shared.statement import StageStatement
from hourglass.analysis.shared.subject_workings import subjects_of
from hourglass.analysis.shared.workings import (
    ExplainedNumber,
    Nothing,
    NoWorkingsError,
    TypedIn,
    Workings,
    decimal,
    digits,
    whole,
)
from hourglass.cohort.followup import Cohort
from hourglass.core.arrays import BoolArray, FloatArray
from hourglass.core.errors import HourglassError, NotEstimableError
from hourglass.core.regression.exact_terms import exact_terms
from hourglass.core.regression.newton_steps import newton_steps
from hourglass.core.regression.row_terms import row_terms
from hourglass.core.regression.ties import EXACT

BY_ROW = WorkingsOf(figure="likelihood-by-row")
STEPS = WorkingsOf(figure="newton-steps")
MAX_TYPED_CHARACTERS = 2000


class AtCoefficients(FrozenModel):
    """Coefficients to evaluate at, as typed: numbers with commas between; the estimates where blank."""

    beta: Annotated[str, Field(max_length=MAX_TYPED_CHARACTERS)] = ""


def by_row_workings(fitted: FittedModel, typed: str) -> Workings:
    """ln L as a sum over the rows with the event, at β̂ or at coefficients that are typed.

    Raises:
        NoWorkingsError: when what is typed is no coefficients, or the likelihood is no sum over rows.
    """
    coded, fit = fitted.design, fitted.fit
    kept = np.array([f != "aliased" for f in fit.status])
    beta = _coefficients(fitted, typed)
    x = coded.x[:, kept]
    centre = x.mean(axis=0)
    if fit.ties is EXACT:
        return _by_time(fitted, x - centre, centre, beta, kept)
    try:
        found = row_terms(coded.data, x - centre, beta[kept], fit.ties, coded.stratum)
    except NotEstimableError as why:
        raise NoWorkingsError(str(why)) from None
    data, row = coded.data, found.row
    names = [c.named for c, k in zip(coded.columns, kept, strict=True) if k]
    return Workings(
        title=f"ln L by row: {digits(found.value)}",
        formula=(
            f"β: {', '.join(f'{n} {digits(float(b))}' for n, b in zip(names, beta[kept], strict=True))}",
            "ln L = Σ over the rows with the event of (xβ − ln φ), each x less its mean over the rows "
            f"({', '.join(digits(float(v)) for v in centre)})",
            f"φ = Σ exp(xβ) of those at risk{TIE_METHODS[fit.ties.key].less}",
            f"ln L = {digits(found.value)}: the last column sums to it; {_largest(fitted)}",
        ),
        columns=(
            whole("row", "row", coded.numbers[row]),
            decimal("time", "time", data.exit[row], subjects_of(None)),
            whole("event", "event", found.event.astype(np.int64)),
            *([whole("count", "count", data.count[row])] if (data.count != 1).any() else []),
            *(decimal(f"x_{k + 1}", n, x[row, k]) for k, n in enumerate(names)),
            decimal("linear", "xβ", found.linear),
            decimal("score", "exp(xβ)", found.score),
            decimal("at_risk", "Σ at risk", _events_only(found.at_risk, found.event)),
            decimal("tied", "Σ tied", _events_only(found.tied, found.event)),
            decimal("share", "f", _events_only(found.left_out, found.event)),
            decimal("factor", "φ", _events_only(found.factor, found.event)),
            decimal("term", "term of ln L", found.term),
        ),
        note="Rows in order of their time: those at risk at a time are the rows from it on, less those that "
        "enter later. Type other coefficients to see ln L fall.",
        typed=_typed(names, beta[kept]),
        more=(("Newton's steps", STEPS),),
    )


def _by_time(
    fitted: FittedModel, x: FloatArray, centre: FloatArray, beta: FloatArray, kept: BoolArray
) -> Workings:
    """ln L as a sum over the event times: with exact ties it is no sum over rows."""
    coded = fitted.design
    try:
        found = exact_terms(coded.data, x, beta[kept], coded.stratum)
    except NotEstimableError as why:
        raise NoWorkingsError(str(why)) from None
    names = [c.named for c, k in zip(coded.columns, kept, strict=True) if k]
    return Workings(
        title=f"ln L by event time: {digits(found.value)}",
        formula=(
            f"β: {', '.join(f'{n} {digits(float(b))}' for n, b in zip(names, beta[kept], strict=True))}",
            "ln L = Σ over the event times of (Σ xβ of the d events − ln B), each x less its mean over the "
            f"rows ({', '.join(digits(float(v)) for v in centre)})",
            "B = the sum of Π exp(xβ) over all sets of d of the n at risk, copies apart",
            f"ln L = {digits(found.value)}: the last column sums to it; {_largest(fitted)}",
        ),
        columns=(
            decimal("time", "time", found.time, subjects_of(None)),
            whole("events", "events d", found.events),
            whole("at_risk", "at risk n", found.at_risk),
            decimal("linear", "Σ xβ of the events", found.linear),
            decimal("subsets", "ln B", found.subsets),
            decimal("term", "term of ln L", found.term),
        ),
        note="B follows from the sums over fewer rows and smaller sets (Gail, Lubin & Rubinstein 1981). "
        "Type other coefficients to see ln L fall.",
        typed=_typed(names, beta[kept]),
        more=(("Newton's steps", STEPS),),
    )


def _typed(names: Sequence[str], beta: FloatArray) -> TypedIn:
    """The field in which other coefficients are typed."""
    return TypedIn(
        label=f"Coefficients of {', '.join(names)}",
        value=", ".join(f"{v:.10g}" for v in beta),
        field="beta",
        opens=BY_ROW,
    )


def _largest(fitted: FittedModel) -> str:
    """Where ln L is at its largest."""
    if _without_maximum(fitted):
        return (
            "it has no largest value, for a coefficient has no finite estimate: it begins at β = 0"
        )
    if fitted.model.penalised:
        return "with the penalty added it is the largest at β̂"
    return "at β̂ it is the largest there is"


def _events_only(values: FloatArray, event: np.ndarray) -> FloatArray:
    return np.where(event, values, np.nan)


def _without_maximum(fitted: FittedModel) -> bool:
    """Whether ln L rises for ever with some coefficient."""
    return any(f not in ("finite", "aliased") for f in fitted.fit.status)


def _coefficients(fitted: FittedModel, typed: str) -> FloatArray:
    """(p,) the coefficients that are requested: β̂ where none are typed, 0 where there is no β̂."""
    fit = fitted.fit
    if not typed.strip():
        return np.zeros(len(fit.status)) if _without_maximum(fitted) else np.nan_to_num(fit.beta)
    try:
        numbers = [float(part.replace(formatting.MINUS, "-")) for part in typed.split(",")]
    except ValueError:
        raise NoWorkingsError("coefficients are numbers with commas between them") from None
    kept = [k for k, f in enumerate(fit.status) if f != "aliased"]
    if len(numbers) != len(kept) or not np.isfinite(numbers).all():
        raise NoWorkingsError(
            f"the model has {formatting.count(len(kept), 'coefficients')}, but {len(numbers)} were typed"
        )
    beta = np.zeros(len(fit.status))
    beta[kept] = numbers
    return beta


def steps_workings(fitted: FittedModel) -> Workings:
    """Newton's steps from 0 to the maximum, and the information there."""
    coded, fit = fitted.design, fitted.plain
    try:
        found = newton_steps(coded.data, coded.x, fit.ties, coded.stratum)
    except NotEstimableError as why:
        raise NoWorkingsError(str(why)) from None
    kept = np.array([f != "aliased" for f in fit.status])
    names = [c.named for c, k in zip(coded.columns, kept, strict=True) if k]
    covariance = fit.covariance[np.ix_(kept, kept)]
    rows = [
        f"Var(β̂), row {n}: {', '.join(digits(float(v)) for v in row)}"
        for n, row in zip(names, covariance, strict=True)
    ]
    return Workings(
        title=f"Newton's steps: ln L {digits(float(found.value[-1]))} at the maximum",
        formula=(
            "β ← β + I⁻¹ U, halved while ln L falls; U the score, I the information at β",
            "the decrement Uᵀ I⁻¹ U says how far ln L can still rise, doubled",
            *rows,
        ),
        columns=(
            whole("step", "step", np.arange(found.value.size)),
            *(
                decimal(f"beta_{k + 1}", n, found.beta[:, c])
                for k, (n, c) in enumerate(zip(names, np.flatnonzero(kept), strict=True))
            ),
            decimal("value", "ln L", found.value),
            decimal("decrement", "decrement", found.decrement),
        ),
        note="Var(β̂) is the inverse of the information at the maximum; a coefficient without a finite "
        "estimate has none.",
        more=(("ln L by row", BY_ROW),),
    )


def _fitted(cohort: Cohort, stated: Mapping[str, StageStatement]) -> FittedModel:
    try:
        return fit_parted(cohort, statement_of(stated, ModelStatement).hazards_model)
    except HourglassError as why:
        raise NoWorkingsError(str(why)) from None


def _by_row(
    cohort: Cohort, stated: Mapping[str, StageStatement], about: AtCoefficients
) -> Workings:
    return by_row_workings(_fitted(cohort, stated), about.beta)


def _steps(cohort: Cohort, stated: Mapping[str, StageStatement], about: Nothing) -> Workings:
    return steps_workings(_fitted(cohort, stated))


WORKINGS = (
    ExplainedNumber(BY_ROW.figure, AtCoefficients, _by_row),
    ExplainedNumber(STEPS.figure, Nothing, _steps),
)

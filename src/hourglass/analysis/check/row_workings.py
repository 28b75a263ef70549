"""Workings of a residual: a row's values, its linear predictor, and the hazard it was under, time by time."""

from collections.abc import Mapping
from typing import Annotated

import numpy as np
from pydantic import Field

from hourglass.analysis.check.checked import Checked, checked
from hourglass.analysis.check.statement import CheckStatement
from hourglass.analysis.model.fitting import fit_parted
from hourglass.analysis.model.statement import ModelStatement
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.curve_form import study_form
from hourglass.analysis.shared.declared import statement_of
from hourglass.analysis.shared.frozen_model import FrozenModel
from hourglass.analysis.shared.statement import StageStatement
from hourglass.analysis.shared.workings import (
    ExplainedNumber,
    NoWorkingsError,
    Workings,
    decimal,
    digits,
)
from hourglass.cohort.followup import Cohort
from hourglass.cohort.time_decimals import TimeDecimals
from hourglass.core.arrays import FloatArray, IntArray
from hourglass.core.errors import HourglassError
from hourglass.core.progress import no_progress

MAX_VALUES = 40


class OfRow(FrozenModel):
    """A row, by its number in the table."""

    row: Annotated[int, Field(ge=1)]


def row_workings(under: Checked, row: int) -> Workings:
    """Λ of a row, or of its subject, as the sum of its hazard over event times; then M and deviance.

    Raises:
        NoWorkingsError: when the model is fitted without that row.
    """
    coded = under.fitted.design
    places = np.flatnonzero(coded.numbers == row)
    if not places.size:
        raise NoWorkingsError(f"row {row} is not among those the model is fitted on")
    who = int(under.subject[places[0]])
    pieces = np.flatnonzero(under.subject == who)
    time, step, linear = _hazard(under, pieces)
    expected, events = float(under.by_subject.expected[who]), float(under.by_subject.events[who])
    martingale, deviance = events - expected, float(under.by_subject.deviance[who])
    score = np.exp(linear)
    table, place = under.cohort.table, int(coded.place[places[0]])
    cells = [f"{c.name} {c.cell(place) or 'missing'}" for c in table.columns[:MAX_VALUES]]
    unit, decimals = under.cohort.statement.unit, under.cohort.decimals
    exits = float(coded.data.exit[pieces].max())
    ended = f"ended with {under.event}" if events else f"ended without {under.event}"
    own = int(places[-1])
    formula = [
        " · ".join(cells),
        f"followed {_from(under, pieces, decimals)}to {formatting.time(exits, decimals)} {unit}, {ended}",
        _linear_words(under, own),
        f"Λ = Σ r dΛ0 over the event times at which it was at risk = {digits(expected)}: the last column",
        f"martingale residual M = δ − Λ = {digits(events)} − {digits(expected)} = {digits(martingale)}",
        f"deviance residual = sign(M) √(−2 (M + δ ln(δ − M))) = {digits(deviance)}",
    ]
    return Workings(
        title=f"Row {row}: deviance residual {formatting.rounded(deviance, 2)}",
        formula=tuple(formula),
        columns=(
            decimal("time", "time", time),
            decimal("linear", "linear predictor", linear),
            decimal("score", "r = exp of it", score),
            decimal("hazard", "dΛ0", step),
            decimal("expected", "r dΛ0", score * step),
        ),
        note="dΛ0 is Σ 1/φ over the factors of a time; among tied events a row with the event takes its "
        "share of each factor (Efron 1977), so that all M add up to 0. The linear predictor is given for the "
        "columns less their means.",
    )


def _from(under: Checked, pieces: IntArray, decimals: TimeDecimals) -> str:
    entry = under.fitted.design.data.entry
    first = -np.inf if entry is None else float(entry[pieces].min())
    return f"from {formatting.time(first, decimals)} " if np.isfinite(first) else ""


def _linear_words(under: Checked, own: int) -> str:
    """The linear predictor of a row, written out."""
    coded, fit = under.fitted.design, under.fitted.plain
    kept = np.flatnonzero(under.at.kept)
    parts = [
        f"{digits(float(fit.beta[c]))} × ({digits(float(coded.x[own, c]))} − "
        f"{digits(float(under.at.centre[k]))})"
        for k, c in enumerate(kept)
    ]
    place = int(np.flatnonzero(under.at.sets.order == own)[0])
    return f"linear predictor η = Σ β (x − x̄) = {' + '.join(parts)} = {digits(float(under.at.linear[place]))}"


def _hazard(under: Checked, pieces: IntArray) -> tuple[FloatArray, FloatArray, FloatArray]:
    """The event times at which pieces of rows were at risk, dΛ0 there, and their linear predictor."""
    at = under.at
    sets, sums = at.sets, at.m.sums
    place_of = np.empty(sets.order.size, dtype=np.int64)
    place_of[sets.order] = np.arange(sets.order.size)
    times, steps, linear = [], [], []
    happened = under.fitted.design.data.event()
    for piece in map(int, pieces):
        place = int(place_of[piece])
        first, last = int(sets.first[place]), int(sets.last[place])
        j = np.arange(first, last + 1)
        # The scores of the sums are those of the linear predictor less the largest of its stratum.
        shift = np.exp(at.m.linear[place] - at.linear[place])
        own = sums.inverse[j] * shift
        if happened[piece] and j.size:
            own[-1] = sums.kept[j[-1]] * shift
        times.append(sets.time[j])
        steps.append(own)
        linear.append(np.full(j.size, at.linear[place]))
    return np.concatenate(times), np.concatenate(steps), np.concatenate(linear)


def under_check(cohort: Cohort, model_statement: Mapping[str, StageStatement]) -> Checked:
    """The model as Check looks at it.

    Raises:
        NoWorkingsError: when it cannot be fitted, or has no residuals.
    """
    model, how = (
        statement_of(model_statement, ModelStatement),
        statement_of(model_statement, CheckStatement),
    )
    try:
        fitted = fit_parted(cohort, model.hazards_model)
        return checked(cohort, model, how, fitted, study_form(model_statement), no_progress)
    except HourglassError as why:
        raise NoWorkingsError(str(why)) from None


def _work(cohort: Cohort, model_statement: Mapping[str, StageStatement], about: OfRow) -> Workings:
    return row_workings(under_check(cohort, model_statement), about.row)


ROW = ExplainedNumber("row-of-model", OfRow, _work)

"""Workings of x̄, the mean of a column among those at risk at an event, which a residual is taken from."""

from collections.abc import Mapping
from typing import Annotated

import numpy as np
from pydantic import Field

from hourglass.analysis.check.checked import Checked
from hourglass.analysis.check.row_workings import under_check
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.cell import WorkingsOf
from hourglass.analysis.shared.frozen_model import FrozenModel
from hourglass.analysis.shared.statement import StageStatement
from hourglass.analysis.shared.workings import (
    ExplainedNumber,
    NoWorkingsError,
    Opens,
    Workings,
    decimal,
    digits,
    whole,
)
from hourglass.cohort.followup import Cohort
from hourglass.core.arrays import FloatArray
from hourglass.core.regression.ties import EFRON

FIGURE = "mean-at-risk"
SHOWN = 6
"""So many of the factors of a time are written out."""


class OfResidual(FrozenModel):
    """A coefficient, by its place, and the row of an event."""

    row: Annotated[int, Field(ge=1)]
    column: Annotated[int, Field(ge=0)]


def opens_mean(row: int, column: int) -> WorkingsOf:
    """What opens x̄ of a coefficient at the event of a row."""
    return WorkingsOf(figure=FIGURE, about={"row": row, "column": column})


def mean_workings(under: Checked, row: int, column: int) -> Workings:
    """x̄ = Σ r x / Σ r over those at risk at the event of a row, r = exp(xβ̂), factor by factor.

    Raises:
        NoWorkingsError: when the row has no event in the model, or the coefficient no estimate.
    """
    coded, fit = under.fitted.design, under.fitted.plain
    data, stratum = coded.data, coded.stratum
    places = np.flatnonzero((coded.numbers == row) & data.event())
    if not places.size or column >= under.at.kept.size or not under.at.kept[column]:
        raise NoWorkingsError(
            f"row {row} has no event in this model, or the coefficient no estimate"
        )
    own = int(places[0])
    t = float(data.exit[own])
    there = data.exit >= t
    if data.entry is not None:
        there &= data.entry < t
    if stratum is not None:
        there &= stratum == stratum[own]
    at_risk = np.flatnonzero(there)
    tied = data.event()[at_risk] & (data.exit[at_risk] == t)
    x, count = coded.x[at_risk, column], data.count[at_risk].astype(np.float64)
    linear = fit.linear[at_risk]
    r = np.exp(linear - linear.max())  # a common factor leaves the mean as it is
    weighed = r * count
    means = _means(weighed, x, weighed * tied, int(count[tied].sum()), efron=fit.ties is EFRON)
    named = coded.columns[column].named
    mean = float(np.mean([value for _, _, value in means]))
    written = [
        f"x̄{_of(k, len(means))} = {digits(top)} / {digits(bottom)} = {digits(value)}"
        for k, (top, bottom, value) in enumerate(means[:SHOWN])
    ]
    if len(means) > SHOWN:
        written.append("…")
    if len(means) > 1:
        written.append(f"x̄ = the mean of these {len(means)} = {digits(mean)}")
    order = np.lexsort((coded.numbers[at_risk], data.exit[at_risk]))
    shown = at_risk[order]
    return Workings(
        title=f"Mean of {named} at risk at {formatting.time(t, under.cohort.decimals)}: {digits(mean)}",
        formula=(
            "x̄ = Σ r x / Σ r over those at risk at this time, r = exp(xβ̂), here as a share of the largest",
            *(
                ["of d tied events the l-th factor leaves out l/d of the tied"]
                if len(means) > 1
                else []
            ),
            *written,
        ),
        columns=(
            whole("row", "row", coded.numbers[shown], Opens("row-of-model", "row")),
            decimal("time", "time", data.exit[shown]),
            whole("event", "event at this time", tied[order].astype(np.int64)),
            *([whole("count", "count", data.count[shown])] if (data.count != 1).any() else []),
            decimal("value", "x", x[order]),
            decimal("score", "r", r[order]),
            decimal("product", "r x", (weighed * x)[order]),
        ),
        note="Efron (1977) for tied events; copies count as often as they are."
        if len(means) > 1
        else "",
    )


def _means(
    r: FloatArray, x: FloatArray, tied: FloatArray, events: int, *, efron: bool
) -> list[tuple[float, float, float]]:
    """Σ r x, Σ r and their ratio for each factor of a time; one where all factors are alike."""
    shares = np.arange(events) / events if efron else np.zeros(1)
    found = []
    for share in shares:
        left = r - share * tied
        top, bottom = float(left @ x), float(left.sum())
        found.append((top, bottom, top / bottom))
    return found


def _of(place: int, many: int) -> str:
    return "" if many == 1 else f"_{place}"


def _work(cohort: Cohort, statements: Mapping[str, StageStatement], about: OfResidual) -> Workings:
    return mean_workings(under_check(cohort, statements), about.row, about.column)


MEAN = ExplainedNumber(FIGURE, OfResidual, _work)

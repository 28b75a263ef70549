"""Workings of a tenth of calibration: whose predictions its mean is made of, and the curve they had."""

from collections.abc import Mapping
from typing import Annotated

import numpy as np
from pydantic import Field

from hourglass.analysis.check.checked import Checked
from hourglass.analysis.check.overall_fit import TENTH, calibration_of
from hourglass.analysis.check.row_workings import under_check
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.frozen_model import FrozenModel
from hourglass.analysis.shared.statement import StageStatement
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
from hourglass.core.arrays import BoolArray, FloatArray, IntArray
from hourglass.core.curves.survival import survival_curve
from hourglass.core.risk_table import risk_table


class OfTenth(FrozenModel):
    """A tenth, counted from 1: the lowest predictions come first."""

    row: Annotated[int, Field(ge=1)]


def _work(cohort: Cohort, stated: Mapping[str, StageStatement], about: OfTenth) -> Workings:
    under = under_check(cohort, stated)
    found = calibration_of(under)
    if isinstance(found, str):
        raise NoWorkingsError(found)
    if about.row > len(found.tenths):
        raise NoWorkingsError(f"there are {len(found.tenths)} deciles")
    one = found.tenths[about.row - 1]
    inside = found.tenth == about.row - 1
    data = under.fitted.design.data.only(inside[under.subject])
    curve = survival_curve(risk_table(data), under.form.confidence)
    exits = under.fitted.design.data.exit[under.fitted_row][inside]
    happened = under.by_subject.events[inside] > 0
    order = np.lexsort((~happened, exits))
    time, event = exits[order], happened[order]
    place = np.searchsorted(curve.table.time, time)
    counts = event & (time <= found.time)
    at_risk, survival = np.full(time.size, np.nan), np.full(time.size, np.nan)
    at_risk[counts] = curve.table.at_risk[place[counts]]
    survival[counts] = curve.survival[place[counts]]
    when = formatting.stated_time(found.time, cohort.statement.unit)
    seen = "not followed so far" if one.seen is None else digits(one.seen.survival)
    return Workings(
        title=f"Decile {about.row} of predicted survival at {when}",
        formula=(
            f"as predicted: the mean of the predicted survival of its {formatting.grouped(one.subjects)} "
            f"{cohort.rows_are} = {digits(one.predicted)}",
            f"observed: Π (1 − d/n) over the times of the events up to {when} = {seen}: the last column",
        ),
        columns=(
            whole("row", "row", under.row[inside][order]),
            *_copies(under.by_subject.copies[inside][order]),
            decimal("predicted", "predicted survival", found.predicted[inside][order]),
            *_entries(under, inside, order),
            decimal("time", "time", time),
            whole("event", under.event, event.astype(np.int64)),
            decimal("at_risk", "at risk", at_risk),
            decimal("survival", "survival", survival),
        ),
        note="d rows have the event at a time, of n at risk just before it; rows with the same time share "
        "one factor. Later events are listed, and not counted.",
    )


def _copies(copies: FloatArray) -> list[TermColumn]:
    """How many each row stands for, where one stands for more than itself."""
    return [whole("count", "stands for", copies)] if (copies != 1).any() else []


def _entries(under: Checked, inside: BoolArray, order: IntArray) -> list[TermColumn]:
    """When each came under observation, where somebody did after time 0."""
    entry = under.fitted.design.data.entry
    if entry is None:
        return []
    first = np.full(under.by_subject.copies.size, np.inf)
    np.minimum.at(first, under.subject, entry)
    return [decimal("entry", "from", np.maximum(first[inside][order], 0.0))]


TENTH_OF_CALIBRATION = ExplainedNumber(TENTH, OfTenth, _work)

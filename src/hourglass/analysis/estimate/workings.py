"""The workings of Estimate: survival at a time, quantiles, means, rates, and the survival table."""

from typing import Annotated, cast

import numpy as np
from pydantic import Field

from hourglass.analysis.estimate.curves import Estimated, estimated
from hourglass.analysis.estimate.statement import EstimateStatement
from hourglass.analysis.shared import wording
from hourglass.analysis.shared.contrast_cells import per_100
from hourglass.analysis.shared.curve_workings import (
    quantile_workings,
    survival_workings,
    table_workings,
)
from hourglass.analysis.shared.curves import Curve
from hourglass.analysis.shared.mean_workings import mean_workings
from hourglass.analysis.shared.stage import Statements
from hourglass.analysis.shared.typed import Typed
from hourglass.analysis.shared.workings import (
    NoWorkingsError,
    WorkedFigure,
    Workings,
    decimal,
    digits,
    whole,
)
from hourglass.cohort.followup import Cohort
from hourglass.core.errors import NotEstimableError
from hourglass.core.people import tally
from hourglass.core.rates import rate
from hourglass.core.risk_table import person_time


class OfCurve(Typed):
    """A curve, by its place; 0 where there is one of everyone."""

    group: Annotated[int, Field(ge=0)] = 0


class AtTime(OfCurve):
    """Survival at time ``t``."""

    t: Annotated[float, Field(ge=0, allow_inf_nan=False)]


class OfQuantile(OfCurve):
    """The time by which a share ``q`` has had the event."""

    q: Annotated[float, Field(gt=0, lt=1)]


def _found(cohort: Cohort, asked: Statements) -> Estimated:
    try:
        return estimated(cohort, cast(EstimateStatement, asked["estimate"]))
    except NotEstimableError as reason:
        raise NoWorkingsError(str(reason)) from None


def _curve(cohort: Cohort, asked: Statements, about: OfCurve) -> Curve:
    return _of(_found(cohort, asked).curves, about)


def _of(curves: tuple[Curve, ...], about: OfCurve) -> Curve:
    if about.group >= len(curves):
        raise NoWorkingsError(f"there is no group {about.group}")
    return curves[about.group]


def _survival(cohort: Cohort, asked: Statements, about: AtTime) -> Workings:
    told = cohort.statement
    return survival_workings(_curve(cohort, asked, about), about.t, told.unit, told.event_name)


def _quantile(cohort: Cohort, asked: Statements, about: OfQuantile) -> Workings:
    curve = _curve(cohort, asked, about)
    return quantile_workings(curve, about.q, cohort.statement.unit, cohort.decimals)


def _table(cohort: Cohort, asked: Statements, about: OfCurve) -> Workings:
    return table_workings(_curve(cohort, asked, about), cohort.statement.unit)


def _mean(cohort: Cohort, asked: Statements, about: OfCurve) -> Workings:
    found = _found(cohort, asked)
    curve = _of(found.curves, about)
    return mean_workings(curve, found.means.limit, cohort.statement.unit, cohort.decimals)


def _rate(cohort: Cohort, asked: Statements, about: OfCurve) -> Workings:
    """Events over the time followed, a subject's rows added up."""
    curve = _curve(cohort, asked, about)
    data, unit = curve.data, cohort.statement.unit
    events, time = tally(data).events, person_time(data)
    told = rate(events, time, curve.form.confidence)
    start = np.zeros(data.exit.size) if data.entry is None else np.maximum(data.entry, 0.0)
    return Workings(
        title=f"Events per 100 {unit}, {curve.label}: "
        f"{wording.BLANK if told.value is None else per_100(told.value)}",
        formula=(
            "rate = events / time at risk, each row's time × its count",
            f"{events} / {digits(time)} = {digits(told.value)}",
            f"limits: a count of {events} is exact Poisson; {digits(told.lower)} to {digits(told.upper)}",
        ),
        columns=(
            decimal("entered", "entered", start),
            decimal("left", "left", data.exit),
            whole("count", "count", data.count),
            decimal("time", "time at risk", (data.exit - start) * data.count),
            whole("event", "event", data.event().astype(np.int64) * data.count),
        ),
        note="Exact interval of a Poisson count (Garwood 1936). It supposes one rate throughout.",
    )


WORKINGS = (
    WorkedFigure("survival", AtTime, _survival),
    WorkedFigure("quantile", OfQuantile, _quantile),
    WorkedFigure("table", OfCurve, _table),
    WorkedFigure("mean", OfCurve, _mean),
    WorkedFigure("rate", OfCurve, _rate),
)

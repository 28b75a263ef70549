"""Values of the curves for each row, at its own time, as columns beside the prepared rows."""

import numpy as np

from hourglass.analysis.estimate.curves import estimated
from hourglass.analysis.estimate.statement import EstimateStatement
from hourglass.analysis.shared.curves import Curve
from hourglass.analysis.shared.grouping import grouped
from hourglass.cohort.followup import Cohort
from hourglass.cohort.table import Column, NumberColumn, TextColumn
from hourglass.core.arrays import FloatArray, IntArray
from hourglass.core.curves.hazard import cumulative_hazard
from hourglass.core.risk_table import number_at_risk

DIGITS = 15
NAMES = (
    "survival at its own time",
    "standard error of survival",
    "cumulative hazard at its own time",
    "number at risk at its own time",
    "rank among event times",
)


def curve_columns(cohort: Cohort, statement: EstimateStatement) -> tuple[Column, ...]:
    """A column each of survival, its error, the cumulative hazard, the number at risk and the rank.

    Rows are read off the curve of their own group; a row without one has no values, and only rows
    with the event have a rank among the distinct event times.

    Raises:
        NotEstimableError: when there are no such groups.
    """
    found = estimated(cohort, statement)
    code = np.zeros(cohort.follow_up.exit.size, dtype=np.int64)
    columns: list[Column] = []
    if found.grouped:
        groups = grouped(cohort, statement)
        code = groups.code
        columns.append(
            TextColumn(name="group of its curve", codes=code.astype(np.int32), levels=groups.labels)
        )
    values = np.full((len(NAMES), code.size), np.nan)
    for k, curve in enumerate(found.curves):
        inside = np.flatnonzero(code == k)
        values[:, inside] = _of_curve(curve, cohort, inside)
    columns += [
        NumberColumn(name=name, values=own, decimals=DIGITS)
        for name, own in zip(NAMES, values, strict=True)
    ]
    return tuple(columns)


def _of_curve(curve: Curve, cohort: Cohort, rows: IntArray) -> FloatArray:
    """(5, m) the values of some rows, all of the curve's group."""
    table, time = curve.estimate.table, cohort.follow_up.exit[rows]
    place = np.searchsorted(table.time, time, side="right")
    hazard = cumulative_hazard(table, hazard=curve.form.estimator.hazard).value
    error = curve.estimate.survival * np.sqrt(curve.estimate.sigma2)
    happened = cohort.follow_up.event()[rows]
    made = np.array(
        [
            curve.survival[place],
            np.append(0.0, error)[place],
            np.append(0.0, hazard)[place],
            number_at_risk(curve.data, time).astype(np.float64),
            np.where(happened, place, np.nan),
        ]
    )
    made[:, time < curve.begins] = np.nan
    return made

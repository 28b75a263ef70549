"""Values of the model for each row, as columns beside the prepared rows."""

import numpy as np

from hourglass.analysis.check.checked import Checked, checked
from hourglass.analysis.check.statement import CheckStatement
from hourglass.analysis.model.fitting import fit_parted
from hourglass.analysis.model.statement import ModelStatement
from hourglass.analysis.shared.curve_form import USUAL
from hourglass.cohort.followup import Cohort
from hourglass.cohort.table import Column, NumberColumn
from hourglass.core.arrays import FloatArray, IntArray
from hourglass.core.errors import HourglassError, NotEstimableError
from hourglass.core.progress import no_progress
from hourglass.core.regression.proportionality import event_residuals
from hourglass.core.regression.residuals import (
    BySubject,
    changes_without,
    expected_events,
    score_residuals,
)

DIGITS = 15


def model_columns(cohort: Cohort, model_statement: ModelStatement) -> tuple[Column, ...]:
    """Of each row that is fitted: linear predictor, events expected, predicted survival, every residual, and
    how far it moves each coefficient; the others have none.

    A row that is parted where an effect changes has the sums of its pieces, and the linear predictor of its
    last. Schoenfeld residuals are those of rows with the event.

    Raises:
        NotEstimableError: when the model has no residuals, or cannot be fitted.
    """
    try:
        fitted = fit_parted(cohort, model_statement.hazards_model)
        under = checked(cohort, model_statement, CheckStatement(), fitted, USUAL, no_progress)
    except HourglassError as why:
        raise NotEstimableError(str(why)) from None
    size = cohort.table.size
    of_rows = _OfRows(under, size)
    happened = fitted.design.data.event().astype(np.float64)
    expected = of_rows.sums(expected_events(under.at))
    rows = BySubject(of_rows.sums(happened), expected, np.ones(size))
    found: dict[str, FloatArray] = {
        "linear predictor": of_rows.last(fitted.fit.linear),
        "Cox–Snell residual": expected,
        "predicted survival at its own time": np.exp(-expected),
        "martingale residual": rows.martingale,
        "deviance residual": rows.deviance,
    }
    kept = np.flatnonzero(under.at.kept)
    names = [fitted.design.columns[c].named for c in kept]
    data, x = fitted.design.data, fitted.design.x
    scores, changes = score_residuals(data, under.at), changes_without(data, under.at)
    errors = np.sqrt(np.diag(under.at.covariance))
    for c, name in enumerate(names):
        found[f"score residual of {name}"] = of_rows.sums(scores[:, c])
        change = of_rows.sums(changes[:, c])
        found[f"dfbeta, {name}"] = -change
        found[f"dfbeta, standardised, {name}"] = -change / errors[c]
    residuals = event_residuals(data, x, fitted.plain)
    place = fitted.design.place[residuals.row]
    for k, name in zip(map(int, kept), names, strict=True):
        for words, of in (
            ("Schoenfeld", residuals.residual),
            ("scaled Schoenfeld", residuals.scaled),
        ):
            own = np.full(size, np.nan)
            own[place] = of[:, k]
            found[f"{words} residual of {name}"] = own
    return tuple(
        NumberColumn(name=name, values=values, decimals=DIGITS) for name, values in found.items()
    )


class _OfRows:
    """Values of fitted rows, or of their pieces, brought to the rows of the table."""

    def __init__(self, under: Checked, size: int) -> None:
        self._place: IntArray = under.fitted.design.place
        self._size = size
        self._there = np.zeros(size, dtype=bool)
        self._there[self._place] = True
        self._order = np.argsort(under.fitted.design.data.exit, kind="stable")

    def sums(self, values: FloatArray) -> FloatArray:
        """(n,) summed over the pieces of each row; NaN where none is fitted."""
        total = np.bincount(self._place, values, self._size)
        return np.where(self._there, total, np.nan)

    def last(self, values: FloatArray) -> FloatArray:
        """(n,) the value of each row's last piece."""
        found = np.full(self._size, np.nan)
        found[self._place[self._order]] = values[self._order]
        return found

"""The course of each ratio over time: smooths of the scaled residuals."""

from dataclasses import dataclass

import numpy as np

from hourglass.analysis.model.design import DesignColumn
from hourglass.analysis.model.fitting import FittedModel
from hourglass.core.arrays import FloatArray, IntArray
from hourglass.core.regression.proportionality import EventResiduals, ProportionalityTest
from hourglass.core.smooth import Smooth, spline_smooth

GRID = 80


@dataclass(frozen=True, slots=True)
class Course:
    """A log ratio as it moves over time, beside the single one of the model.

    Attributes:
        column: its place in the design; ``about``: what the design says of it.
        name: what it is called where it stands alone.
        time: (m,) where the smooth is known; empty where there is none.
        smooth: the line with its band.
        beta: the model's log ratio.
    """

    column: int
    about: DesignColumn
    name: str
    time: FloatArray
    smooth: Smooth | None
    beta: float


def course_of(
    fitted: FittedModel,
    residuals: EventResiduals,
    tested: ProportionalityTest,
    column: int,
    name: str,
    confidence: float,
) -> Course:
    """The smooth of a column's scaled residuals against g(t), at the grid's event times."""
    g = tested.g[np.searchsorted(tested.time, residuals.time)]
    variance = int(residuals.count.sum()) * float(fitted.fit.covariance[column, column])
    grid, y = _grid(tested.time.size), residuals.scaled[:, column]
    smooth = spline_smooth(g, y, tested.g[grid], variance, confidence, residuals.count)
    time = np.empty(0) if smooth is None else tested.time[grid]
    beta = float(fitted.fit.beta[column])
    return Course(column, fitted.design.columns[column], name, time, smooth, beta)


def _grid(k: int) -> IntArray:
    """Positions of event times, evenly placed among k, where smooths are drawn."""
    return np.unique(np.linspace(0, k - 1, min(GRID, k)).round().astype(np.int64))

"""The course of each ratio over time: smooths of the scaled residuals."""

from dataclasses import dataclass

import numpy as np

from hourglass.analysis.model.design import DesignColumn
from hourglass.analysis.model.fitting import FittedModel
from hourglass.core.arrays import FloatArray, IntArray
from hourglass.core.regression.proportionality import EventResiduals, ProportionalityTest
from hourglass.core.smooth import Smooth, SplineSmoother, spline_smoother

GRID = 80


@dataclass(frozen=True, slots=True, kw_only=True)
class Course:
    """A log ratio as it moves over time, beside the single one of the model.

    Attributes:
        column: its place in the design; ``about``: what the design states about it.
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


@dataclass(frozen=True, slots=True)
class CourseTimes:
    """The event times at which courses are drawn, and what smooths residuals there."""

    time: FloatArray
    smoother: SplineSmoother | None


def course_times(residuals: EventResiduals, tested: ProportionalityTest) -> CourseTimes:
    """Smooths against g(t), at the grid's event times."""
    # The test has the event times of each stratum apart; g is of time alone.
    time, first = np.unique(tested.time, return_index=True)
    g, grid = tested.g[first], _grid(time.size)
    smoother = spline_smoother(g[np.searchsorted(time, residuals.time)], g[grid], residuals.count)
    return CourseTimes(np.empty(0) if smoother is None else time[grid], smoother)


def course_of(
    fitted: FittedModel,
    residuals: EventResiduals,
    times: CourseTimes,
    column: int,
    name: str,
    confidence: float,
) -> Course:
    """The smooth of a column's scaled residuals."""
    variance = int(residuals.count.sum()) * float(fitted.fit.covariance[column, column])
    smooth = (
        None
        if times.smoother is None
        else times.smoother.smooth(residuals.scaled[:, column], variance, confidence)
    )
    beta = float(fitted.fit.beta[column])
    return Course(
        column=column,
        about=fitted.design.columns[column],
        name=name,
        time=times.time,
        smooth=smooth,
        beta=beta,
    )


def _grid(k: int) -> IntArray:
    """Positions of event times, evenly placed among k, where smooths are drawn."""
    return np.unique(np.linspace(0, k - 1, min(GRID, k)).round().astype(np.int64))

"""Fitting the proportional hazards model (Cox 1972, 1975; ties by Efron 1977; methods.md, section 4)."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

import numpy as np
from scipy.special import ndtr

from hourglass.core.arrays import FloatArray, IntArray
from hourglass.core.comparison import Test, chi_squared
from hourglass.core.followup import FollowUp
from hourglass.core.regression.columns import Aliased, Columns, usable_columns
from hourglass.core.regression.likelihood import Likelihood, likelihood
from hourglass.core.regression.monotone import Runaway, runaway
from hourglass.core.regression.newton import Maximum, maximise
from hourglass.core.regression.risk_sets import RiskSets, risk_sets
from hourglass.core.survival import normal_quantile

Fate = Literal["finite", "to +infinity", "to -infinity", "undetermined", "aliased"]


class NotEstimableError(ValueError):
    """There is nothing to fit; the message says why."""


@dataclass(frozen=True, slots=True)
class HazardsFit:
    """A fitted model of p columns.

    Attributes:
        beta: (p,) log hazard ratios; NaN where ``fate`` is not "finite".
        covariance: (p, p) inverse information; NaN in rows and columns without a finite estimate.
        fate: per column, whether it has an estimate, runs away, is left undetermined by those that do,
            or was left out as aliased.
        aliased: the columns left out, with reasons.
        value_at_zero, value: log partial likelihood at 0 and at the maximum (the supremum when a
            coefficient runs away).
        likelihood_ratio, wald, score: tests of all coefficients together.
        size, events: rows and events fitted, counts included.
        iterations, decrement, condition: how the solver ended; the condition number is that of
            the information of the scaled columns.
        linear: (n,) the linear predictor x β̂ + offset, up to a constant.
    """

    beta: FloatArray
    covariance: FloatArray
    fate: tuple[Fate, ...]
    aliased: tuple[Aliased, ...]
    value_at_zero: float
    value: float
    likelihood_ratio: Test
    wald: Test
    score: Test
    size: int
    events: int
    iterations: int
    decrement: float
    condition: float
    linear: FloatArray

    @property
    def standard_error(self) -> FloatArray:
        """(p,) standard errors of beta; NaN where there is none."""
        return np.sqrt(np.diag(self.covariance))

    def interval(self, level: float = 0.95) -> tuple[FloatArray, FloatArray]:
        """(p,) Wald limits of beta."""
        half = normal_quantile(level) * self.standard_error
        return self.beta - half, self.beta + half

    @property
    def p(self) -> FloatArray:
        """(p,) two-sided Wald p-values."""
        return np.asarray(2 * ndtr(-np.abs(self.beta) / self.standard_error))

    def wald_of(self, columns: IntArray) -> Test:
        """Wald test of some columns together."""
        finite = columns[np.array([self.fate[k] == "finite" for k in columns], dtype=bool)]
        if finite.size < sum(self.fate[k] != "aliased" for k in columns):
            return Test(None, 0, None, "a coefficient runs to infinity")
        if finite.size == 0:
            return Test(None, 0, None, "its columns were left out")
        beta, cov = self.beta[finite], self.covariance[np.ix_(finite, finite)]
        return chi_squared(float(beta @ np.linalg.solve(cov, beta)), finite.size)


@dataclass(frozen=True, slots=True)
class _Problem:
    sets: RiskSets
    columns: Columns
    offset: FloatArray

    def evaluate(self, b: FloatArray) -> Likelihood:
        return likelihood(self.sets, self.columns.z, b, self.offset)


def fit(
    data: FollowUp,
    x: FloatArray,
    offset: FloatArray | None = None,
    watch: Callable[[int], None] = lambda iteration: None,
) -> HazardsFit:
    """Fit the proportional hazards model by Newton's method.

    Args:
        data: follow-up of n rows, status 1 the event.
        x: (n, p) covariates on their original scale, all finite.
        offset: (n,) added to the linear predictor.
        watch: told each iteration's number; may raise to stop the work.

    Raises:
        NotEstimableError: without events, or when the search does not converge.
    """
    if not data.event().any():
        raise NotEstimableError("no event was observed, so no rate can be compared")
    p = x.shape[1]
    sets = risk_sets(data)
    columns = usable_columns(x, data.count.astype(np.float64))
    zero = np.zeros(data.exit.size) if offset is None else offset
    problem = _without_uninformative(_Problem(sets, columns, zero))
    q = problem.columns.kept.size
    at_zero = problem.evaluate(np.zeros(q))
    if q == 0:
        return _nothing_to_estimate(data, p, problem, at_zero)
    found = maximise(problem.evaluate, q, watch)
    away = runaway(
        at_zero.information, found, problem.columns.z, lambda b: problem.evaluate(b).value
    )
    if not found.converged and away is None:
        raise NotEstimableError(
            f"the search for the coefficients did not settle in {found.iterations} steps"
        )
    return _result(data, p, problem, at_zero, found, away)


def highest_value(data: FollowUp, x: FloatArray, offset: FloatArray) -> float:
    """The highest log partial likelihood over the coefficients of ``x``, beside an offset.

    Raises:
        NotEstimableError: when the search does not converge.
    """
    columns = usable_columns(x, data.count.astype(np.float64))
    problem = _without_uninformative(_Problem(risk_sets(data), columns, offset))
    found = maximise(problem.evaluate, problem.columns.kept.size)
    if not found.converged:
        raise NotEstimableError("the search for the coefficients did not settle")
    return found.at.value


def _without_uninformative(problem: _Problem) -> _Problem:
    """Leave out columns that never differ among those at risk at an event time."""
    columns = problem.columns
    if columns.kept.size == 0:
        return problem
    information = problem.evaluate(np.zeros(columns.kept.size)).information
    events = problem.sets.events.sum()
    informative = np.ones(columns.kept.size, dtype=bool)
    for k in range(columns.kept.size):
        before = np.flatnonzero(informative[:k])
        inner = information[np.ix_(before, before)]
        cross = information[before, k]
        explained = cross @ np.linalg.solve(inner, cross) if before.size else 0.0
        informative[k] = information[k, k] - explained > 1e-12 * events
    if informative.all():
        return problem
    why = "does not vary, beyond the columns before it, among the rows at risk at any event time"
    lost = tuple(Aliased(int(k), why) for k in columns.kept[~informative])
    aliased = tuple(sorted(columns.aliased + lost, key=lambda a: a.column))
    kept = Columns(
        columns.z[:, informative], columns.kept[informative], columns.scale[informative], aliased
    )
    return _Problem(problem.sets, kept, problem.offset)


def _nothing_to_estimate(
    data: FollowUp, p: int, problem: _Problem, at_zero: Likelihood
) -> HazardsFit:
    blank = Test(None, 0, None, "every column was left out")
    fate: list[Fate] = ["aliased"] * p
    return HazardsFit(
        np.full(p, np.nan),
        np.full((p, p), np.nan),
        tuple(fate),
        problem.columns.aliased,
        at_zero.value,
        at_zero.value,
        blank,
        blank,
        blank,
        data.size,
        int(problem.sets.events.sum()),
        0,
        0.0,
        1.0,
        problem.offset,
    )


def _inverse(information: FloatArray) -> FloatArray:
    try:
        inverse = np.asarray(np.linalg.inv(information), dtype=np.float64)
    except np.linalg.LinAlgError:
        raise NotEstimableError("the rows do not determine the coefficients") from None
    if not (np.diag(inverse) > 0).all():
        raise NotEstimableError(
            "one value is so far from all others that rounding leaves nothing of their differences"
        )
    return inverse


def _result(
    data: FollowUp,
    p: int,
    problem: _Problem,
    at_zero: Likelihood,
    found: Maximum,
    away: Runaway | None,
) -> HazardsFit:
    columns = problem.columns
    fate: list[Fate] = ["aliased"] * p
    for k, position in enumerate(columns.kept):
        run = 0.0 if away is None else away.direction[k]
        if run != 0:
            fate[position] = "to +infinity" if run > 0 else "to -infinity"
        elif away is not None and away.undetermined[k]:
            fate[position] = "undetermined"
        else:
            fate[position] = "finite"
    information = found.at.information
    if away is None:
        inverse = _inverse(information)
        wald = chi_squared(float(found.beta @ information @ found.beta), columns.kept.size)
    else:
        basis = away.finite
        inverse = basis @ np.linalg.solve(basis.T @ information @ basis, basis.T)
        wald = Test(None, 0, None, "a coefficient runs to infinity")
    finite = np.array([f == "finite" for f in fate])
    beta, covariance = np.full(p, np.nan), np.full((p, p), np.nan)
    beta[columns.kept] = found.beta / columns.scale
    covariance[np.ix_(columns.kept, columns.kept)] = inverse / np.outer(
        columns.scale, columns.scale
    )
    beta[~finite] = np.nan
    covariance[~finite, :] = covariance[:, ~finite] = np.nan
    gradient = at_zero.gradient
    return HazardsFit(
        beta,
        covariance,
        tuple(fate),
        columns.aliased,
        at_zero.value,
        found.at.value,
        chi_squared(max(2 * (found.at.value - at_zero.value), 0.0), columns.kept.size),
        wald,
        chi_squared(
            float(gradient @ np.linalg.solve(at_zero.information, gradient)), columns.kept.size
        ),
        data.size,
        int(problem.sets.events.sum()),
        found.iterations,
        found.decrement,
        float(np.linalg.cond(information)),
        columns.z @ found.beta + problem.offset,
    )

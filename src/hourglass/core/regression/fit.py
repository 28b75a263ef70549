"""Fitting the proportional hazards model (Cox 1972, 1975;
methods.md, section 4: Proportional hazards regression)."""

import math
from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
from scipy.linalg import eigh
from scipy.special import ndtr

from hourglass.core.arrays import FloatArray, IntArray
from hourglass.core.comparison.chi_squared import Test, chi_squared
from hourglass.core.errors import NotEstimableError
from hourglass.core.followup import FollowUp
from hourglass.core.normal import normal_quantile
from hourglass.core.regression.columns import Aliased, Columns, usable_columns
from hourglass.core.regression.likelihood import Likelihood, likelihood
from hourglass.core.regression.newton import DECREMENT_TOLERANCE, WIDEST, Maximum, maximise
from hourglass.core.regression.recession import Recession, recession, ways_out
from hourglass.core.regression.risk_sets import RiskSets, risk_sets
from hourglass.core.regression.ties import EFRON, TieMethod

Fate = Literal["finite", "to +infinity", "to -infinity", "undetermined", "aliased"]


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
        linear: (n,) the linear predictor x β̂ + offset, up to a constant; where a coefficient runs
            away it only orders the rows.
        ties: how events at one time entered the likelihood.
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
    ties: TieMethod = EFRON

    @property
    def standard_error(self) -> FloatArray:
        """(p,) standard errors of beta; NaN where there is none."""
        return np.sqrt(np.diag(self.covariance))

    @property
    def estimated(self) -> int:
        """How many columns were not left out."""
        return sum(f != "aliased" for f in self.fate)

    @property
    def minus_two_log_likelihood(self) -> float:
        """−2ℓ."""
        return -2 * self.value

    @property
    def aic(self) -> float:
        """Akaike's criterion."""
        return -2 * self.value + 2 * self.estimated

    @property
    def bic(self) -> float:
        """The Bayesian criterion, with the number of events (Volinsky & Raftery 2000)."""
        return -2 * self.value + self.estimated * math.log(self.events)

    def interval(self, confidence: float = 0.95) -> tuple[FloatArray, FloatArray]:
        """(p,) Wald limits of beta."""
        half = normal_quantile(confidence) * self.standard_error
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


SUSPECT = 1e-3
"""Where a direction keeps less than this share of its information, the maximum may be at infinity."""


@dataclass(frozen=True, slots=True)
class _Problem:
    data: FollowUp
    sets: RiskSets
    columns: Columns
    offset: FloatArray
    ties: TieMethod

    def evaluate(self, b: FloatArray) -> Likelihood:
        return likelihood(self.sets, self.columns.z, b, self.offset)


@dataclass(frozen=True, slots=True)
class _Supremum:
    """The highest value; where it is only approached, ``away`` and a maximum in its basis."""

    found: Maximum
    away: Recession | None


def fit(
    data: FollowUp,
    x: FloatArray,
    offset: FloatArray | None = None,
    watch: Callable[[int], None] = lambda iteration: None,
    ties: TieMethod = EFRON,
) -> HazardsFit:
    """Fit the proportional hazards model by Newton's method.

    Args:
        data: follow-up of n rows, status 1 the event.
        x: (n, p) covariates on their original scale, all finite.
        offset: (n,) added to the linear predictor.
        watch: told each iteration's number; may raise to stop the work.
        ties: how events at one time enter the likelihood.

    Raises:
        NotEstimableError: without events, or when the search does not converge.
    """
    if not data.event().any():
        raise NotEstimableError("no event was observed, so no rate can be compared")
    problem = _problem(data, x, np.zeros(data.exit.size) if offset is None else offset, ties)
    at_zero = problem.evaluate(np.zeros(problem.columns.kept.size))
    if problem.columns.kept.size == 0:
        return _nothing_to_estimate(data, x.shape[1], problem, at_zero)
    return _result(x.shape[1], problem, at_zero, _supremum(problem, at_zero, watch))


def highest_values(data: FollowUp, x: FloatArray, ties: TieMethod) -> Callable[[FloatArray], float]:
    """The supremum of the log partial likelihood over the coefficients of ``x``, beside any offset.

    Whether a maximum is only approached does not depend on the offset, so it is decided once.

    Args:
        data, x: follow-up of n rows and their columns (n, p).
        ties: how events at one time enter the likelihood.

    Returns:
        a function of an offset (n,).

    Raises:
        NotEstimableError: when it cannot be decided, or (from the function) when the search does
            not converge.
    """
    problem = _problem(data, x, np.zeros(data.exit.size), ties)
    z, sets = problem.columns.z, problem.sets
    away = _away(problem) if z.shape[1] else None
    if away is not None:
        z, sets = z @ away.basis, risk_sets(away.left, problem.ties)

    def highest(offset: FloatArray) -> float:
        found = maximise(lambda b: likelihood(sets, z, b, offset), z)
        if not found.converged:
            raise NotEstimableError("the search for the coefficients did not settle")
        return found.at.value

    return highest


def _problem(data: FollowUp, x: FloatArray, offset: FloatArray, ties: TieMethod) -> _Problem:
    columns = usable_columns(x, data.count.astype(np.float64))
    return _without_uninformative(_Problem(data, risk_sets(data, ties), columns, offset, ties))


def _supremum(
    problem: _Problem, at_zero: Likelihood, watch: Callable[[int], None] = lambda iteration: None
) -> _Supremum:
    """Where the likelihood is highest, be it at infinity."""
    z = problem.columns.z
    found = maximise(problem.evaluate, z, watch, WIDEST)
    if not _suspect(found, at_zero, problem.data.exit.size):
        return _Supremum(found, None)
    away = _away(problem)
    if away is None:
        if not found.converged:
            found = maximise(problem.evaluate, z, watch)
    else:
        sets, inner = risk_sets(away.left, problem.ties), z @ away.basis
        found = maximise(lambda b: likelihood(sets, inner, b, problem.offset), inner, watch)
    if not found.converged:
        raise NotEstimableError(
            f"the search for the coefficients did not settle in {found.iterations} steps"
        )
    return _Supremum(found, away)


def _away(problem: _Problem) -> Recession | None:
    return recession(problem.data, problem.sets, problem.columns.z)


def _suspect(found: Maximum, at_zero: Likelihood, rows: int) -> bool:
    """Whether the maximum may be at infinity.

    Where it is, the search ends with a decrement ε (1 + |ℓ|) or none at all, and along the way the
    information is at most that times the square of the widest gap, against 1/(2n) of that square
    at 0: the share that is left is under 2n ε (1 + |ℓ|).
    """
    if not found.converged:
        return True
    if found.beta.size == 0:
        return False
    try:
        share = eigh(found.at.information, at_zero.information, eigvals_only=True)
    except np.linalg.LinAlgError:
        return True
    bound = 4 * rows * DECREMENT_TOLERANCE * (1 + abs(found.at.value))
    return bool(share[0] < max(SUSPECT, bound))


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
    return replace(problem, columns=kept)


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
        problem.ties,
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


def _result(p: int, problem: _Problem, at_zero: Likelihood, highest: _Supremum) -> HazardsFit:
    columns, found, away = problem.columns, highest.found, highest.away
    fate = np.full(p, "aliased", dtype=object)
    information = found.at.information
    if away is None:
        fate[columns.kept] = "finite"
        inverse = _inverse(information)
        scaled, linear = found.beta, columns.z @ found.beta
        wald = chi_squared(float(found.beta @ information @ found.beta), columns.kept.size)
    else:
        fate[columns.kept] = _fates(problem)
        inverse = away.basis @ _inverse(information) @ away.basis.T
        scaled = away.basis @ found.beta
        linear = columns.z @ scaled
        linear = linear + away.rank * (np.ptp(linear + problem.offset) + 1.0)
        wald = Test(None, 0, None, "a coefficient runs to infinity")
    beta, covariance = np.full(p, np.nan), np.full((p, p), np.nan)
    beta[columns.kept] = scaled / columns.scale
    covariance[np.ix_(columns.kept, columns.kept)] = inverse / np.outer(
        columns.scale, columns.scale
    )
    finite = fate == "finite"
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
        problem.data.size,
        int(problem.sets.events.sum()),
        found.iterations,
        found.decrement,
        float(np.linalg.cond(information)) if information.size else 1.0,
        linear + problem.offset,
        problem.ties,
    )


def _fates(problem: _Problem) -> list[Fate]:
    """What becomes of each coefficient as all run as far as they go."""
    words: dict[tuple[bool, bool], Fate] = {
        (False, False): "finite",
        (True, False): "to +infinity",
        (False, True): "to -infinity",
        (True, True): "undetermined",
    }
    rises, falls = ways_out(problem.sets, problem.columns.z)
    return [words[bool(up), bool(down)] for up, down in zip(rises, falls, strict=True)]

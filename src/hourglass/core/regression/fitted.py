"""A fitted proportional hazards model: coefficients, their errors, tests of all together
(methods.md, section 4: Proportional hazards regression)."""

import math
from dataclasses import dataclass
from typing import Literal

import numpy as np
from scipy.special import ndtr

from hourglass.core.arrays import FloatArray, IntArray
from hourglass.core.comparison.chi_squared import Test, chi_squared, no_test
from hourglass.core.errors import NotEstimableError
from hourglass.core.normal import normal_quantile
from hourglass.core.regression.columns import Aliased
from hourglass.core.regression.ties import EFRON, TieMethod

CoefficientStatus = Literal["finite", "to +infinity", "to -infinity", "undetermined", "aliased"]
SINGULAR = 1e13
"""The condition of a matrix of correlations from which a figure made with its inverse has no digits left."""


@dataclass(frozen=True, slots=True, kw_only=True)
class HazardsFit:
    """A fitted model of p columns.

    Attributes:
        beta: (p,) log hazard ratios; NaN where ``status`` is not "finite".
        covariance: (p, p) inverse information; NaN in rows and columns without a finite estimate.
        status: per column, whether it has an estimate, runs away, is left undetermined by those that do,
            or was left out as aliased.
        aliased: the columns left out, with reasons.
        value_at_zero, value: log partial likelihood at 0 and at the maximum (the supremum when a
            coefficient runs away).
        likelihood_ratio, wald, score: tests of all coefficients together.
        size, events: rows and events fitted, counts included.
        iterations, decrement, condition: how the solver ended; the condition number is that of
            the information of the scaled columns.
        linear: (n,) the linear predictor x β̂ + offset, up to a constant; where a coefficient runs
            away it only orders the rows. ``offset``: (n,) what was added to it.
        ties: how events at one time entered the likelihood; ``stratum``: (n,) whose risk sets a row is in.
    """

    beta: FloatArray
    covariance: FloatArray
    status: tuple[CoefficientStatus, ...]
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
    offset: FloatArray
    ties: TieMethod = EFRON
    stratum: IntArray | None = None

    @property
    def standard_error(self) -> FloatArray:
        """(p,) standard errors of beta; NaN where there is none."""
        return np.sqrt(np.diag(self.covariance))

    @property
    def estimated(self) -> int:
        """How many columns were not left out."""
        return sum(f != "aliased" for f in self.status)

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

    def variance_inflation(self, columns: IntArray) -> float | None:
        """det I_TT · det [I⁻¹]_TT of some columns (Fox & Monette 1992); None where one has no estimate."""
        estimated = np.array(
            [k for k, f in enumerate(self.status) if f != "aliased"], dtype=np.int64
        )
        if any(self.status[k] != "finite" for k in (*columns, *estimated)):
            return None
        error = self.standard_error
        correlation = self.covariance / np.outer(error, error)
        place = np.flatnonzero(np.isin(estimated, columns))
        inverse = np.linalg.inv(correlation[np.ix_(estimated, estimated)])
        of = np.linalg.det(inverse[np.ix_(place, place)])
        return float(of * np.linalg.det(correlation[np.ix_(columns, columns)]))

    def against(self, smaller: "HazardsFit") -> Test:
        """The likelihood ratio test against a model of the same rows with some columns fewer.

        Raises:
            NotEstimableError: when the two do not start from the same likelihood: other rows, ties or offset.
        """
        apart = abs(self.value_at_zero - smaller.value_at_zero)
        alike = self.events == smaller.events and self.ties is smaller.ties
        if not alike or apart > 1e-9 * (1 + abs(self.value_at_zero)):
            raise NotEstimableError("nested models are of the same rows and ties")
        df = self.estimated - smaller.estimated
        if df <= 0:
            return no_test("no estimable column is tested")
        return chi_squared(max(2 * (self.value - smaller.value), 0.0), df)

    def wald_of(self, columns: IntArray) -> Test:
        """Wald test of some columns together."""
        finite = columns[np.array([self.status[k] == "finite" for k in columns], dtype=bool)]
        if finite.size < sum(self.status[k] != "aliased" for k in columns):
            return Test(None, 0, None, "a coefficient runs to infinity")
        if finite.size == 0:
            return Test(None, 0, None, "its columns were left out")
        cov = self.covariance[np.ix_(finite, finite)]
        error = np.sqrt(np.diag(cov))
        if not (error > 0).all():
            return Test(None, 0, None, "a coefficient has no error")
        correlation, scaled = cov / np.outer(error, error), self.beta[finite] / error
        if np.linalg.cond(correlation) > SINGULAR:  # robust, of no more clusters than coefficients
            return Test(None, 0, None, "the covariance of the coefficients has no inverse")
        return chi_squared(float(scaled @ np.linalg.solve(correlation, scaled)), finite.size)

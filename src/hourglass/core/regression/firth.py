"""The fit with Firth's penalty, finite also where the likelihood rises for ever (Firth 1993;
Heinze & Schemper 2001; methods.md, section 4: Proportional hazards regression)."""

from dataclasses import dataclass, replace

import numpy as np
from scipy.linalg import solve_triangular

from hourglass.core.arrays import BoolArray, FloatArray, IntArray
from hourglass.core.comparison.chi_squared import Test, chi_squared, no_test
from hourglass.core.errors import NotEstimableError
from hourglass.core.followup import FollowUp
from hourglass.core.regression.columns import Aliased
from hourglass.core.regression.likelihood import (
    Likelihood,
    RiskMoments,
    information,
    likelihood_of,
    means_over_hazard,
    moments,
    seen_at_events,
)
from hourglass.core.regression.problem import NO_EVENTS, Problem, prepare
from hourglass.core.regression.profile import profile_ends
from hourglass.core.regression.risk_sets import RiskSets
from hourglass.core.regression.ties import EFRON, EXACT, TieMethod

MAX_ITERATIONS = 500
MAX_HALVINGS = 40
STUCK_AFTER, STUCK = 20, 1e-10
"""So many halvings mean that no step is seen to raise the value: where it would rise by less than the
second, as a share of it, rounding is all that is left; else the search has failed."""
SETTLED, NO_GAIN = 1e-16, 1e-28
"""A step that would raise the penalised likelihood by less than the second ends the search; by less
than the first, once the next one gains no less: then rounding is all that is left."""

UNSETTLED = "the search for the penalised coefficients did not settle"


def penalty_gradient(
    sets: RiskSets, x: FloatArray, m: RiskMoments, inverse: FloatArray
) -> FloatArray:
    """(p,) the gradient of ½ ln |I|: ½ tr(I⁻¹ ∂I), the third moments of the columns in the risk sets.

    tr(I⁻¹ ∂_k I) = Σ_l Cov_l(q, x_k) − 2 Σ_l Cov_l(x, x_k)ᵀ I⁻¹ x̄_l with q = xᵀ I⁻¹ x: the first sum is
    that of one more column, the second needs what each row has gathered of I⁻¹ x̄_l while at risk.
    """
    q = np.einsum("pn,pq,qn->n", x, inverse, x)
    one_more = np.vstack([x, q - q.mean()])
    of_q = moments(sets, one_more[-1:], m.linear)
    wide = replace(m, mean=np.vstack([m.mean, of_q.mean]), apart=np.vstack([m.apart, of_q.apart]))
    first = information(sets, one_more, wide)[:-1, -1]
    gathered = np.array(
        [sets.while_at_risk(*both) for both in zip(*means_over_hazard(sets, m), strict=True)]
    )
    along = np.einsum("pn,pq,qn->n", x, inverse, gathered)
    second = x @ (m.score * along)
    means, weight = _all_means(sets, m)
    second -= means @ (weight * np.einsum("pl,pq,ql->l", means, inverse, means))
    return np.asarray(first / 2 - second)


def _all_means(sets: RiskSets, m: RiskMoments) -> tuple[FloatArray, FloatArray]:
    """(p, L) x̄_l, and (L,) how many factors each stands for."""
    f = sets.factors
    single = np.ones(f.events.size, dtype=bool)
    single[f.tied] = False
    share = f.share * (m.rest + m.tied)[f.tied][f.time] / f.phi(m.rest, m.tied)
    listed = m.mean[:, f.tied][:, f.time] - share * m.apart[:, f.time]
    return (np.hstack([m.mean[:, single], listed]), np.concatenate([f.events[single], f.weight]))


@dataclass(frozen=True, slots=True)
class _Highest:
    """Where the penalised likelihood is highest, in the scaled columns.

    Attributes:
        beta: (q,) the coefficients; ``value``: the penalised likelihood there.
        covariance: (q, q) the inverse of the information without the penalty.
        iterations: of the search.
    """

    beta: FloatArray
    value: float
    covariance: FloatArray
    iterations: int


@dataclass(frozen=True, slots=True, kw_only=True)
class _Turned:
    """The scaled columns turned to be perpendicular, those that a search is free in first.

    Columns that all but follow from one another leave no digits in an information of their own; the
    penalised likelihood of turned columns differs by a constant. To hold the last of them is to hold
    the coefficients of the last columns.

    Attributes:
        z: (q, n) the turned columns; ``seen``: of them, as :func:`seen_at_events`.
        order: (q,) the scaled columns in the order of the turned ones.
        triangle: (q, q) upper, with (q, n) columns[order] = triangleᵀ z.
        free: how many of the turned columns a search is free in.
    """

    problem: Problem
    z: FloatArray
    seen: FloatArray
    order: IntArray
    triangle: FloatArray
    free: int

    @property
    def volume(self) -> float:
        """What ½ ln |I| of the columns as they were given is above that of the turned ones."""
        turned = np.log(np.abs(np.diag(self.triangle))).sum()
        return float(turned + np.log(self.problem.columns.scale).sum())

    def _turned_back(self, gamma: FloatArray) -> FloatArray:
        """(q,) the coefficients of the columns from those of the turned ones."""
        beta = np.empty(gamma.size)
        beta[self.order] = solve_triangular(self.triangle, gamma)
        return beta

    def _found(self, gamma: FloatArray, at: Likelihood, iterations: int) -> _Highest:
        """Where a search has ended, in terms of the columns."""
        half = solve_triangular(self.triangle, np.linalg.inv(at.information))
        covariance = np.empty_like(half)
        covariance[np.ix_(self.order, self.order)] = solve_triangular(self.triangle, half.T)
        return _Highest(self._turned_back(gamma), at.value, covariance, iterations)

    def at(self, gamma: FloatArray) -> Likelihood:
        """The penalised likelihood with its gradient, and the information without the penalty."""
        sets, z = self.problem.sets, self.z
        m = moments(sets, z, gamma @ z + self.problem.offset)
        plain = likelihood_of(sets, z, self.seen, m)
        sign, log = np.linalg.slogdet(plain.information)
        if not np.isfinite(plain.value) or sign <= 0:
            return Likelihood(-np.inf, plain.gradient, plain.information)
        inverse = np.asarray(np.linalg.inv(plain.information), dtype=np.float64)
        gradient = plain.gradient + penalty_gradient(sets, z, m, inverse)
        far = not np.isfinite(gradient).all()
        value = -np.inf if far else plain.value + log / 2 + self.volume
        return Likelihood(value, gradient, plain.information)

    def highest(self, near: FloatArray, held: FloatArray) -> _Highest:
        """The free coefficients at their best, sought from ``near`` (q,), the others as ``held`` (q,).

        Raises:
            NotEstimableError: when the search does not settle.
        """
        moves = self.free
        gamma = np.asarray(self.triangle @ near[self.order])
        gamma[moves:] = self.triangle[moves:, moves:] @ held[self.order][moves:]
        here = self.at(gamma)
        if not np.isfinite(here.value):
            raise NotEstimableError(UNSETTLED)
        curve = np.asarray(np.linalg.inv(here.information[:moves, :moves]), dtype=np.float64)
        before = np.inf
        for iteration in range(MAX_ITERATIONS):
            step = np.zeros(gamma.size)
            step[:moves] = curve @ here.gradient[:moves]
            gain = float(here.gradient @ step)
            rounding = 4 * np.finfo(float).eps * (1 + abs(here.value))
            if gain <= NO_GAIN or (gain <= SETTLED and gain >= before / 2):
                return self._found(gamma, here, iteration)
            before = gain
            for halving in range(MAX_HALVINGS):
                there = self.at(gamma + step / 2**halving)
                if there.value >= here.value - rounding:
                    break
            if halving >= STUCK_AFTER:
                if gain > STUCK * (1 + abs(here.value)):
                    break
                return self._found(gamma, here, iteration)
            moved = step[:moves] / 2**halving
            curve = _improved(curve, moved, (here.gradient - there.gradient)[:moves])
            gamma, here = gamma + step / 2**halving, there
        raise NotEstimableError(UNSETTLED)


def _turned(problem: Problem, free: BoolArray) -> _Turned:
    """The columns turned, those that are ``free`` (q,) first."""
    order = np.concatenate([np.flatnonzero(free), np.flatnonzero(~free)])
    perpendicular, triangle = np.linalg.qr(problem.columns.z[order].T)
    size = np.sqrt(perpendicular.shape[0])
    z = np.ascontiguousarray(perpendicular.T) * size
    seen = seen_at_events(problem.sets, z)
    return _Turned(
        problem=problem, z=z, seen=seen, order=order, triangle=triangle / size, free=int(free.sum())
    )


def _improved(curve: FloatArray, moved: FloatArray, turned: FloatArray) -> FloatArray:
    """The inverse curvature after a step, by how the gradient turned (Broyden, Fletcher, Goldfarb, Shanno).

    Without it the plain information stands in for that of the penalised likelihood, which it is far
    from where the likelihood itself has no maximum.
    """
    along = float(moved @ turned)
    if along <= 0:
        return curve
    left = np.eye(moved.size) - np.outer(moved, turned) / along
    return np.asarray(left @ curve @ left.T + np.outer(moved, moved) / along)


@dataclass(frozen=True, slots=True, kw_only=True)
class PenalisedFit:
    """A fit with Firth's penalty; it has no information criteria.

    Attributes:
        beta: (p,) log hazard ratios; NaN for columns left out. ``covariance``: (p, p) from the
            information without the penalty.
        aliased: the columns left out, with reasons.
        value_at_zero, value: the penalised log likelihood at 0 and at its maximum.
        likelihood_ratio: the test of all columns together, by the penalised likelihood.
        size, events: rows and events fitted, counts included; ``iterations``: of the search.
    """

    beta: FloatArray
    covariance: FloatArray
    aliased: tuple[Aliased, ...]
    value_at_zero: float
    value: float
    likelihood_ratio: Test
    size: int
    events: int
    iterations: int
    _problem: Problem
    _scaled: FloatArray

    @property
    def standard_error(self) -> FloatArray:
        """(p,) standard errors of beta; NaN where there is none."""
        return np.sqrt(np.diag(self.covariance))

    def test_of(self, columns: IntArray) -> Test:
        """The likelihood ratio test of some columns, the penalty that of all of them; blank, with the
        reason, where the search without them does not settle.
        """
        tested = np.isin(self._problem.columns.kept, columns)
        if not tested.any():
            return no_test("its columns were left out")
        zero = np.zeros(tested.size)
        try:
            under = _turned(self._problem, ~tested).highest(self._scaled, zero).value
        except NotEstimableError as why:
            return no_test(str(why))
        return chi_squared(max(2 * (self.value - under), 0.0), int(tested.sum()))

    def interval(self, column: int, confidence: float = 0.95) -> tuple[float, float]:
        """The profile interval of a coefficient; an end beyond 64 times z standard errors is infinite.

        Raises:
            NotEstimableError: for a column left out, or when a search does not settle.
        """
        kept = self._problem.columns
        place = np.flatnonzero(kept.kept == column)
        if not place.size:
            raise NotEstimableError("the column was left out, so it has no interval")
        scale = float(kept.scale[place[0]])
        turned = _turned(self._problem, np.arange(self._scaled.size) != place[0])
        near = self._scaled

        def height(b: float) -> float:
            nonlocal near
            found = turned.highest(near, np.full(near.size, b * scale))
            near = found.beta
            return found.value

        error = float(self.standard_error[column])
        return profile_ends(height, float(self.beta[column]), error, self.value, confidence)


def fit_penalised(
    data: FollowUp,
    x: FloatArray,
    offset: FloatArray | None = None,
    ties: TieMethod = EFRON,
    stratum: IntArray | None = None,
) -> PenalisedFit:
    """Maximise ℓ + ½ ln |I|; arguments as for :func:`hourglass.core.regression.fit.fit`.

    Raises:
        NotEstimableError: without events, with exact ties, without a column that holds information, or
            when the search does not settle.
    """
    if ties is EXACT:
        raise NotEstimableError("the penalty is not known for exact ties")
    if not data.event().any():
        raise NotEstimableError(NO_EVENTS)
    problem, _ = prepare(data, x, offset, ties, stratum)
    columns = problem.columns
    if columns.kept.size == 0:
        raise NotEstimableError("every column was left out")
    size = columns.kept.size
    zero, turned = np.zeros(size), _turned(problem, np.ones(size, dtype=bool))
    found = turned.highest(zero, zero)
    at_zero = turned.at(zero).value
    p = x.shape[1]
    beta, covariance = np.full(p, np.nan), np.full((p, p), np.nan)
    beta[columns.kept] = found.beta / columns.scale
    scale = np.outer(columns.scale, columns.scale)
    covariance[np.ix_(columns.kept, columns.kept)] = found.covariance / scale
    return PenalisedFit(
        beta=beta,
        covariance=covariance,
        aliased=columns.aliased,
        value_at_zero=at_zero,
        value=found.value,
        likelihood_ratio=chi_squared(max(2 * (found.value - at_zero), 0.0), size),
        size=data.size,
        events=int(problem.sets.events.sum()),
        iterations=found.iterations,
        _problem=problem,
        _scaled=found.beta,
    )

"""The fit with Firth's penalty, finite also where the likelihood rises for ever (Firth 1993;
Heinze & Schemper 2001; methods.md, section 4: Proportional hazards regression)."""

from dataclasses import dataclass, replace

import numpy as np

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
from hourglass.core.regression.problem import Problem, prepare
from hourglass.core.regression.profile import profile_ends
from hourglass.core.regression.risk_sets import RiskSets
from hourglass.core.regression.ties import EFRON, EXACT, TieMethod

MOST_ITERATIONS = 500
MOST_HALVINGS = 40
SETTLED, NOTHING = 1e-16, 1e-28
"""A step that would raise the penalised likelihood by less than the second ends the search; by less
than the first, once the next one gains no less: then rounding is all that is left."""


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
class _Search:
    """The penalised likelihood of the scaled columns, maximised over some while others are held."""

    problem: Problem
    seen: FloatArray

    def at(self, beta: FloatArray) -> Likelihood:
        """The penalised likelihood with its gradient, and the information without the penalty."""
        sets, z = self.problem.sets, self.problem.columns.z
        m = moments(sets, z, beta @ z + self.problem.offset)
        plain = likelihood_of(sets, z, self.seen, m)
        sign, log = np.linalg.slogdet(plain.information)
        if not np.isfinite(plain.value) or sign <= 0:
            return Likelihood(-np.inf, plain.gradient, plain.information)
        inverse = np.asarray(np.linalg.inv(plain.information), dtype=np.float64)
        more = penalty_gradient(sets, z, m, inverse)
        return Likelihood(plain.value + log / 2, plain.gradient + more, plain.information)

    def highest(self, start: FloatArray, free: BoolArray) -> tuple[FloatArray, Likelihood, int]:
        """The coefficients that are free at their best, the others as in ``start`` (q,).

        Raises:
            NotEstimableError: when the search does not settle.
        """
        beta, here = start.copy(), self.at(start)
        inner = here.information[np.ix_(free, free)]
        curve = np.asarray(np.linalg.inv(inner), dtype=np.float64)
        before = np.inf
        for iteration in range(MOST_ITERATIONS):
            step = np.zeros(beta.size)
            step[free] = curve @ here.gradient[free]
            gain = float(here.gradient @ step)
            if gain <= NOTHING or (gain <= SETTLED and gain >= before / 2):
                return beta, here, iteration
            before = gain
            for halving in range(MOST_HALVINGS):
                there = self.at(beta + step / 2**halving)
                if there.value >= here.value - 4 * np.finfo(float).eps * (1 + abs(here.value)):
                    break
            else:
                return beta, here, iteration
            moved, turned = step[free] / 2**halving, (here.gradient - there.gradient)[free]
            beta, here = beta + step / 2**halving, there
            curve = _improved(curve, moved, turned)
        raise NotEstimableError("the search for the penalised coefficients did not settle")


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


@dataclass(frozen=True, slots=True)
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
    _search: "_Search"
    _scaled: FloatArray

    @property
    def standard_error(self) -> FloatArray:
        """(p,) standard errors of beta; NaN where there is none."""
        return np.sqrt(np.diag(self.covariance))

    def test_of(self, columns: IntArray) -> Test:
        """The likelihood ratio test of some columns, the penalty that of all of them."""
        tested = np.isin(self._search.problem.columns.kept, columns)
        if not tested.any():
            return no_test("its columns were left out")
        start = np.where(tested, 0.0, self._scaled)
        under = self._search.highest(start, ~tested)[1].value
        shift = float(np.log(self._search.problem.columns.scale).sum())
        return chi_squared(max(2 * (self.value - under - shift), 0.0), int(tested.sum()))

    def interval(self, column: int, confidence: float = 0.95) -> tuple[float, float]:
        """The profile interval of a coefficient; an end beyond 64 times z standard errors is infinite.

        Raises:
            NotEstimableError: for a column left out, or when a search does not settle.
        """
        kept = self._search.problem.columns
        place = np.flatnonzero(kept.kept == column)
        if not place.size:
            raise NotEstimableError("the column was left out, so it has no interval")
        shift = float(np.log(kept.scale).sum())
        return profile_ends(
            lambda b: self._profile(int(place[0]), b * float(kept.scale[place[0]])) + shift,
            float(self.beta[column]),
            float(self.standard_error[column]),
            self.value,
            confidence,
        )

    def _profile(self, place: int, held: float) -> float:
        free = np.arange(self._scaled.size) != place
        return self._search.highest(np.where(free, self._scaled, held), free)[1].value


def fit_penalised(
    data: FollowUp,
    x: FloatArray,
    offset: FloatArray | None = None,
    ties: TieMethod = EFRON,
    stratum: IntArray | None = None,
) -> PenalisedFit:
    """Maximise ℓ + ½ ln |I|; arguments as for :func:`hourglass.core.regression.fit.fit`.

    Raises:
        NotEstimableError: without events, with exact ties, without a column that tells anything, or
            when the search does not settle.
    """
    if ties is EXACT:
        raise NotEstimableError("the penalty is not known for exact ties")
    if not data.event().any():
        raise NotEstimableError("no event was observed, so no rate can be compared")
    problem, _ = prepare(data, x, offset, ties, stratum)
    columns = problem.columns
    if columns.kept.size == 0:
        raise NotEstimableError("every column was left out")
    search = _Search(problem, seen_at_events(problem.sets, columns.z))
    zero = np.zeros(columns.kept.size)
    scaled, found, iterations = search.highest(zero, np.ones(zero.size, dtype=bool))
    at_zero = search.at(zero).value
    p = x.shape[1]
    beta, covariance = np.full(p, np.nan), np.full((p, p), np.nan)
    beta[columns.kept] = scaled / columns.scale
    inverse = np.linalg.inv(found.information) / np.outer(columns.scale, columns.scale)
    covariance[np.ix_(columns.kept, columns.kept)] = inverse
    # ln |I| of the scaled columns differs from that of the original ones by a constant.
    shift = float(np.log(columns.scale).sum())
    return PenalisedFit(
        beta,
        covariance,
        columns.aliased,
        at_zero + shift,
        found.value + shift,
        chi_squared(max(2 * (found.value - at_zero), 0.0), zero.size),
        data.size,
        int(problem.sets.events.sum()),
        iterations,
        search,
        scaled,
    )

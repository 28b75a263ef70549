"""Fitting the proportional hazards model (Cox 1972, 1975;
methods.md, section 4: Proportional hazards regression)."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from hourglass.core.arrays import FloatArray, IntArray
from hourglass.core.comparison.chi_squared import Test, chi_squared
from hourglass.core.errors import NotEstimableError
from hourglass.core.followup import FollowUp
from hourglass.core.regression.fitted import CoefficientStatus, HazardsFit
from hourglass.core.regression.likelihood import Likelihood
from hourglass.core.regression.problem import NO_EVENTS, Problem, prepare
from hourglass.core.regression.recession import recession_directions
from hourglass.core.regression.risk_sets import RiskSets
from hourglass.core.regression.supremum import Supremum, supremum
from hourglass.core.regression.ties import EFRON, TieMethod


def fit(
    data: FollowUp,
    x: FloatArray,
    offset: FloatArray | None = None,
    on_iteration: Callable[[float], None] = lambda iterations: None,
    ties: TieMethod = EFRON,
    stratum: IntArray | None = None,
    sets: RiskSets | None = None,
) -> HazardsFit:
    """Fit the proportional hazards model by Newton's method.

    What goes together, beside strata, offsets, counts, late entry and rows (start, stop], which
    go with everything:

    | | Efron, Breslow | exact ties | a coefficient at infinity |
    |---|---|---|---|
    | coefficients, errors, tests, profile intervals | yes | yes | the finite ones; its finite end |
    | penalty (:mod:`.firth`) | yes | refused | made finite |
    | robust errors, residuals, checks, baseline, predictions | yes | refused | refused |
    | copies over 2·10⁶, p² Σ n_j d_j of tied times over 10⁸ | yes | refused | yes |

    Args:
        data: follow-up of n rows, status 1 the event.
        x: (n, p) covariates on their original scale, all finite.
        offset: (n,) added to the linear predictor.
        on_iteration: called with how many iterations are done, with exact ties within one too; may raise to
            stop the work.
        ties: how events at one time enter the likelihood.
        stratum: (n,) a code for each row; each stratum has a baseline of its own.
        sets: the risk sets of these rows, ties and strata, where other columns were fitted on them.

    Raises:
        RefusedRowsError: naming rows with a covariate or offset that is missing or infinite.
        NotEstimableError: without events, for too many tied events, or when the search does not converge.
    """
    if not data.event().any():
        raise NotEstimableError(NO_EVENTS)
    done = Iterations(on_iteration)
    problem, at_zero = prepare(data, x, offset, ties, stratum, sets, done.within)
    if problem.columns.kept.size == 0:
        return _nothing_to_estimate(data, x.shape[1], problem, at_zero)
    return _result(x.shape[1], problem, at_zero, supremum(problem, at_zero, done.at))


@dataclass(slots=True)
class Iterations:
    """Reports how many iterations are done, and how much of the next."""

    on_iteration: Callable[[float], None]
    done: int = 0

    def at(self, iteration: int) -> None:
        self.done = iteration
        self.on_iteration(iteration)

    def within(self, share: float) -> None:
        self.on_iteration(self.done + share)


def _nothing_to_estimate(
    data: FollowUp, p: int, problem: Problem, at_zero: Likelihood
) -> HazardsFit:
    blank = Test(None, 0, None, "every column was left out")
    status: list[CoefficientStatus] = ["aliased"] * p
    return HazardsFit(
        beta=np.full(p, np.nan),
        covariance=np.full((p, p), np.nan),
        status=tuple(status),
        aliased=problem.columns.aliased,
        value_at_zero=at_zero.value,
        value=at_zero.value,
        likelihood_ratio=blank,
        wald=blank,
        score=blank,
        size=data.size,
        events=int(problem.sets.events.sum()),
        iterations=0,
        decrement=0.0,
        condition=1.0,
        linear=problem.added,
        offset=problem.added,
        ties=problem.ties,
        stratum=problem.stratum,
    )


def inverse_of(information: FloatArray) -> FloatArray:
    """The covariance of coefficients.

    Raises:
        NotEstimableError: where the information has no inverse, or rounding leaves none.
    """
    try:
        inverse = np.asarray(np.linalg.inv(information), dtype=np.float64)
    except np.linalg.LinAlgError:
        raise NotEstimableError("the rows do not determine the coefficients") from None
    if not (np.diag(inverse) > 0).all():
        raise NotEstimableError(
            "one value is so far from all others that rounding leaves nothing of their differences"
        )
    return inverse


def _result(p: int, problem: Problem, at_zero: Likelihood, highest: Supremum) -> HazardsFit:
    columns, found, away = problem.columns, highest.found, highest.away
    status = np.full(p, "aliased", dtype=object)
    information = found.at.information
    if away is None:
        status[columns.kept] = "finite"
        inverse = inverse_of(information)
        scaled, linear = found.beta, columns.linear(found.beta)
        wald = chi_squared(float(found.beta @ information @ found.beta), columns.kept.size)
    else:
        status[columns.kept] = _statuses(problem)
        inverse = away.basis @ inverse_of(information) @ away.basis.T
        scaled = away.basis @ found.beta
        linear = columns.linear(scaled)
        rank = problem.sets.ordered(away.rank)
        linear = linear + rank * (np.ptp(linear + problem.offset) + 1.0)
        wald = Test(None, 0, None, "a coefficient runs to infinity")
    beta, covariance = np.full(p, np.nan), np.full((p, p), np.nan)
    beta[columns.kept] = scaled / columns.scale
    covariance[np.ix_(columns.kept, columns.kept)] = inverse / np.outer(
        columns.scale, columns.scale
    )
    finite = status == "finite"
    beta[~finite] = np.nan
    covariance[~finite, :] = covariance[:, ~finite] = np.nan
    likelihood_ratio, score = tests_of_all(at_zero, found.at.value)
    return HazardsFit(
        beta=beta,
        covariance=covariance,
        status=tuple(status),
        aliased=columns.aliased,
        value_at_zero=at_zero.value,
        value=found.at.value,
        likelihood_ratio=likelihood_ratio,
        wald=wald,
        score=score,
        size=problem.data.size,
        events=int(problem.sets.events.sum()),
        iterations=found.iterations,
        decrement=found.decrement,
        condition=float(np.linalg.cond(information)) if information.size else 1.0,
        linear=problem.sets.by_row(linear + problem.offset),
        offset=problem.added,
        ties=problem.ties,
        stratum=problem.stratum,
    )


def tests_of_all(at_zero: Likelihood, value: float) -> tuple[Test, Test]:
    """The likelihood ratio and the score test of all coefficients; ``value`` is the highest ln L."""
    gradient = at_zero.gradient
    score = float(gradient @ np.linalg.solve(at_zero.information, gradient))
    ratio = max(2 * (value - at_zero.value), 0.0)
    return chi_squared(ratio, gradient.size), chi_squared(score, gradient.size)


def _statuses(problem: Problem) -> list[CoefficientStatus]:
    """What becomes of each coefficient as all run as far as they go."""
    statuses: dict[tuple[bool, bool], CoefficientStatus] = {
        (False, False): "finite",
        (True, False): "to +infinity",
        (False, True): "to -infinity",
        (True, True): "undetermined",
    }
    rises, falls = recession_directions(problem.sets, problem.columns.z, problem.ties)
    return [statuses[bool(up), bool(down)] for up, down in zip(rises, falls, strict=True)]

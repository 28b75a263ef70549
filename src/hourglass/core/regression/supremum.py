"""Where the likelihood is highest, be it at infinity
(methods.md, section 4: Proportional hazards regression)."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from scipy.linalg import eigh

from hourglass.core.arrays import FloatArray, IntArray
from hourglass.core.errors import NotEstimableError
from hourglass.core.followup import FollowUp
from hourglass.core.regression.likelihood import Likelihood
from hourglass.core.regression.newton import Maximum, maximise, within_reach
from hourglass.core.regression.problem import Problem, evaluation, prepare
from hourglass.core.regression.recession import Recession, recession
from hourglass.core.regression.risk_sets import RiskSets, risk_sets
from hourglass.core.regression.ties import TieMethod

SUSPECT = 1e-3
"""Where a direction keeps less than this share of its information, the maximum may be at infinity."""


@dataclass(frozen=True, slots=True)
class Supremum:
    """The highest value; where it is only approached, ``away`` and a maximum in its basis."""

    found: Maximum
    away: Recession | None


def supremum(
    problem: Problem,
    at_zero: Likelihood,
    on_iteration: Callable[[int], None] = lambda iteration: None,
) -> Supremum:
    """Where the likelihood is highest, be it at infinity."""
    z = problem.columns.z
    found = maximise(
        problem.evaluate,
        z.shape[0],
        on_iteration,
        within_reach(z[:, problem.sets.counted > 0]),
        at_zero,
    )
    if not suspect(found, at_zero, problem.data.exit.size):
        return Supremum(found, None)
    away = _away(problem)
    if away is None:
        if not found.converged:
            found = maximise(problem.evaluate, z.shape[0], on_iteration, at_zero=at_zero)
    else:
        sets, inner = _left(problem, away)
        offset = sets.ordered(problem.added)
        evaluate = evaluation(sets, inner, offset, problem.ties, problem.within)
        found = maximise(evaluate, inner.shape[0], on_iteration)
    if not found.converged:
        raise NotEstimableError(
            f"the search for the coefficients did not settle in {found.iterations} steps"
        )
    return Supremum(found, away)


def highest_values(
    data: FollowUp, x: FloatArray, ties: TieMethod, stratum: IntArray | None
) -> Callable[[FloatArray], float]:
    """The supremum of the log partial likelihood over the coefficients of ``x``, beside any offset.

    Whether a maximum is only approached does not depend on the offset, so it is decided once.

    Args:
        data, x, ties, stratum: as for :func:`fit`.

    Returns:
        a function of an offset (n,).

    Raises:
        NotEstimableError: when it cannot be decided, or (from the function) when the search does
            not converge.
    """
    problem, _ = prepare(data, x, None, ties, stratum)
    z, sets = problem.columns.z, problem.sets
    away = _away(problem) if z.shape[0] else None
    if away is not None:
        sets, z = _left(problem, away)

    def highest(offset: FloatArray) -> float:
        own = sets.ordered(offset)
        found = maximise(evaluation(sets, z, own, ties), z.shape[0])
        if not found.converged:
            raise NotEstimableError("the search for the coefficients did not settle")
        return found.at.value

    return highest


def _left(problem: Problem, away: Recession) -> tuple[RiskSets, FloatArray]:
    """The risk sets of the likelihood that is left, and the columns in whose directions it varies."""
    sets = risk_sets(problem.data, problem.ties, away.stratum)
    columns = problem.sets.columns_by_row(away.basis.T @ problem.columns.z)
    return sets, sets.ordered_columns(columns)


def _away(problem: Problem) -> Recession | None:
    return recession(problem.data, problem.sets, problem.columns.z, problem.stratum, problem.ties)


def suspect(found: Maximum, at_zero: Likelihood, rows: int) -> bool:
    """Whether the maximum may be at infinity.

    Where it is, the search ends with some decrement, and along the way the information is at most
    that times the square of the widest gap, against 1/(2n) of that square at 0: the share that is
    left is under 2n times the decrement.
    """
    if not found.converged:
        return True
    if found.beta.size == 0:
        return False
    try:
        share = eigh(found.at.information, at_zero.information, eigvals_only=True)
    except np.linalg.LinAlgError:
        return True
    return bool(share[0] < max(SUSPECT, 4 * rows * found.decrement))

"""Newton's method for a concave log likelihood
(methods.md, section 4: Proportional hazards regression)."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from hourglass.core.arrays import FloatArray
from hourglass.core.regression.likelihood import Likelihood

VALUE_TOLERANCE = 1e-11
DECREMENT_TOLERANCE = 1e-14
MAX_ITERATIONS = 60
MAX_HALVINGS = 40
WIDEST = 200.0
"""Linear predictors that would span more than this (e²⁰⁰ between scores) may be running away."""


@dataclass(frozen=True, slots=True)
class Maximum:
    """Where the search ended; ``converged`` states whether both tolerances were met.

    Without convergence the search was given up: no step raised the value, the steps ran out, or
    the next one went beyond the widest linear predictor that was allowed.
    """

    beta: FloatArray
    at: Likelihood
    iterations: int
    decrement: float
    converged: bool


def maximise(
    evaluate: Callable[[FloatArray], Likelihood],
    size: int,
    on_iteration: Callable[[int], None] = lambda iteration: None,
    within: Callable[[FloatArray], bool] = lambda beta: True,
    at_zero: Likelihood | None = None,
    stands: Callable[[FloatArray, Likelihood], None] = lambda beta, at: None,
) -> Maximum:
    """Maximise from 0 with step halving.

    Args:
        evaluate: the likelihood at coefficients (q,); ``size``: q.
        on_iteration: called with each iteration's number; may raise to stop the work.
        within: the search is given up where it would go to coefficients (q,) for which this is False.
        at_zero: the likelihood at 0, where it is known.
        stands: called with each point that the search goes on from, 0 the first.
    """
    beta = np.zeros(size)
    at = evaluate(beta) if at_zero is None else at_zero
    stands(beta, at)
    if size == 0:
        return Maximum(beta, at, 0, 0.0, True)
    step, decrement = newton_step(at)
    for iteration in range(1, MAX_ITERATIONS + 1):
        on_iteration(iteration)
        if not within(beta + step):
            return Maximum(beta, at, iteration, decrement, False)
        rounding = 4 * np.finfo(float).eps * (1 + abs(at.value))
        for halving in range(MAX_HALVINGS):
            new = beta + step / 2**halving
            candidate = evaluate(new)
            if candidate.value >= at.value - rounding:
                break
        else:
            return Maximum(beta, at, iteration, decrement, False)
        change = abs(candidate.value - at.value)
        beta, at = new, candidate
        stands(beta, at)
        step, decrement = newton_step(at)
        tolerance = 1 + abs(at.value)
        if change < VALUE_TOLERANCE * tolerance and decrement < DECREMENT_TOLERANCE * tolerance:
            found = _last_step(evaluate, Maximum(beta, at, iteration, decrement, True), step)
            if found.at is not at:
                stands(found.beta, found.at)
            return found
    return Maximum(beta, at, MAX_ITERATIONS, decrement, False)


def within_reach(z: FloatArray) -> Callable[[FloatArray], bool]:
    """Whether the linear predictor of columns (q, n) spans no more than it may, at coefficients (q,)."""
    spread = np.ptp(z, axis=1)

    def within(beta: FloatArray) -> bool:
        if float(np.abs(beta) @ spread) <= WIDEST:
            return True
        return bool(np.ptp(beta @ z) <= WIDEST)

    return within


def _last_step(
    evaluate: Callable[[FloatArray], Likelihood], found: Maximum, step: FloatArray
) -> Maximum:
    """One more full step: the decrement alone leaves up to 1e-6 standard errors."""
    beta = found.beta + step
    at = evaluate(beta)
    if at.value < found.at.value - 4 * np.finfo(float).eps * (1 + abs(found.at.value)):
        return found
    return Maximum(beta, at, found.iterations + 1, newton_step(at)[1], True)


def newton_step(at: Likelihood) -> tuple[FloatArray, float]:
    """The step to the maximum of the quadratic at a point, and the decrement Uᵀ I⁻¹ U."""
    # The columns are on one scale, so a direction without information shows as a tiny
    # eigenvalue: it is followed no further than rounding lets it be trusted.
    values, vectors = np.linalg.eigh(at.information)
    trusted = values > 1e-14 * max(values[-1], 1e-300)
    along = vectors[:, trusted].T @ at.gradient
    step = vectors[:, trusted] @ (along / values[trusted])
    return step, float(along @ (along / values[trusted]))

"""Newton's steps of a fit, one by one (methods.md, section 4: Proportional hazards regression)."""

from dataclasses import dataclass

import numpy as np

from hourglass.core.arrays import FloatArray, IntArray
from hourglass.core.errors import NotEstimableError
from hourglass.core.followup import FollowUp
from hourglass.core.regression.likelihood import Likelihood
from hourglass.core.regression.newton import maximise, newton_step
from hourglass.core.regression.problem import prepare
from hourglass.core.regression.ties import TieMethod


@dataclass(frozen=True, slots=True)
class NewtonSteps:
    """Where the search stood, from 0 on.

    Attributes:
        beta: (s, p) coefficients on the original scale; NaN for columns left out.
        value: (s,) ln L; ``decrement``: (s,) UᵀI⁻¹U there.
    """

    beta: FloatArray
    value: FloatArray
    decrement: FloatArray


def newton_steps(
    data: FollowUp, x: FloatArray, ties: TieMethod, stratum: IntArray | None = None
) -> NewtonSteps:
    """The points that the search went through, in order.

    Raises:
        NotEstimableError: as for :func:`hourglass.core.regression.fit.fit`, and when every column was
            left out.
    """
    problem, at_zero = prepare(data, x, None, ties, stratum)
    columns = problem.columns
    if not columns.kept.size:
        raise NotEstimableError("every column was left out, so there is nothing to search for")
    points: list[tuple[FloatArray, Likelihood]] = []
    maximise(
        problem.evaluate,
        columns.kept.size,
        at_zero=at_zero,
        stands=lambda beta, at: points.append((beta, at)),
    )
    beta = np.full((len(points), x.shape[1]), np.nan)
    beta[:, columns.kept] = np.array([b / columns.scale for b, _ in points])
    return NewtonSteps(
        beta,
        np.array([at.value for _, at in points]),
        np.array([newton_step(at)[1] for _, at in points]),
    )

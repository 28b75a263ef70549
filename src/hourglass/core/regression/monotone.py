"""Coefficients that run to infinity (methods.md, section 4, "monotone likelihood")."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from scipy.linalg import eigh

from hourglass.core.arrays import BoolArray, FloatArray
from hourglass.core.regression.newton import Maximum

SUSPECT = 1e-3
"""A direction with less than this share of its information at 0 is looked at."""
GONE = 1e-6
"""A direction with less than this share has none left, once a runaway is known to be there."""


@dataclass(frozen=True, slots=True)
class Runaway:
    """Directions along which the likelihood rises for ever.

    Attributes:
        direction: (q,) the path the coefficients take, 0 for those that do not run.
        undetermined: (q,) True for those that do not run but of which, once the others have run,
            the rows say nothing: any value fits equally well.
        finite: (q, q − m) a basis of the directions in which the likelihood has a maximum.
    """

    direction: FloatArray
    undetermined: BoolArray
    finite: FloatArray


def runaway(
    at_zero: FloatArray, found: Maximum, z: FloatArray, value: Callable[[FloatArray], float]
) -> Runaway | None:
    """Decide whether a maximum was only approached.

    The suspects are directions that kept almost no information; a suspect is convicted when
    going far along it (50 units of linear predictor) still does not lower the likelihood.

    Args:
        at_zero: (q, q) information at coefficients 0.
        found: where Newton's method ended.
        z: (n, q) scaled columns.
        value: the log likelihood at given coefficients.
    """
    share, vectors = eigh(found.at.information, at_zero)
    suspects = vectors[:, share < SUSPECT]
    if suspects.size == 0:
        return None
    direction = suspects @ (suspects.T @ at_zero @ found.beta)
    direction[np.abs(direction) < 1e-2 * np.abs(direction).max()] = 0.0
    spread = np.ptp(z @ direction)
    if spread == 0 or not np.isfinite(spread):
        return None
    far = value(found.beta + direction * (50 / spread))
    if far < found.at.value - 1e-9 * (1 + abs(found.at.value)):
        return None
    gone = vectors[:, share < GONE]
    silent = np.sqrt(np.square(gone).sum(axis=1)) > 1e-2 * np.abs(vectors).max()
    return Runaway(direction, silent & (direction == 0), vectors[:, share >= GONE])

"""A smooth through scattered points: a restricted cubic spline with a pointwise band."""

from dataclasses import dataclass

import numpy as np

from hourglass.core.arrays import FloatArray, IntArray
from hourglass.core.normal import normal_quantile
from hourglass.core.regression.terms import cubic_columns, sample_knots

KNOTS = 4


@dataclass(frozen=True, slots=True)
class Smooth:
    """The fitted line with its band at (m,) points ``x``; ``knots`` are those actually used."""

    x: FloatArray
    y: FloatArray
    lower: FloatArray
    upper: FloatArray
    knots: FloatArray


def spline_smooth(
    x: FloatArray,
    y: FloatArray,
    at: FloatArray,
    variance: float,
    confidence: float = 0.95,
    count: IntArray | None = None,
) -> Smooth | None:
    """Least squares on a restricted cubic spline of x, linear beyond the outer knots.

    Args:
        x, y: (n,) points; ``at``: (m,) where the line is wanted.
        variance: the variance of one y around the line.
        confidence: of the pointwise band.
        count: (n,) copies of each point; 1 when absent.

    Returns:
        None when fewer than three distinct x leave nothing to smooth.
    """
    if np.unique(x).size < 3:
        return None
    copies = np.ones(x.size, dtype=np.int64) if count is None else count
    knots = np.unique(sample_knots(x, copies, KNOTS))
    if x.size < knots.size or not _determined(_basis(x, knots)):
        knots = knots[[0, -1]]  # too few points for a curve: a straight line
    wanted, root = _basis(at, knots), np.sqrt(copies)
    q, r = np.linalg.qr(_basis(x, knots) * root[:, None])
    line = wanted @ np.linalg.solve(r, q.T @ (root * y))
    leverage = np.square(np.linalg.solve(r.T, wanted.T)).sum(axis=0)
    half = normal_quantile(confidence) * np.sqrt(variance * leverage)
    return Smooth(at, line, line - half, line + half, knots)


def _determined(basis: FloatArray) -> bool:
    own = np.abs(np.diag(np.linalg.qr(basis, mode="r")))
    return bool(own.min() > 1e-10 * own.max())


def _basis(x: FloatArray, knots: FloatArray) -> FloatArray:
    """(n, max(len(knots), 2)) 1, x and the restricted cubic terms, on the knots' own scale."""
    low, width = knots[0], (knots[-1] - knots[0]) or 1.0
    u, k = (x - low) / width, (knots - low) / width
    return np.column_stack([np.ones_like(u), u if k.size < 3 else cubic_columns(u, k)])

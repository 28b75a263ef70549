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


@dataclass(frozen=True, slots=True)
class SplineSmoother:
    """Least squares on a restricted cubic spline of n points' x, for whatever y they have.

    Attributes:
        at: (m,) where lines are wanted; ``knots``: those of the spline, two for a straight line.
    """

    at: FloatArray
    knots: FloatArray
    _root: FloatArray
    _q: FloatArray
    _weights: FloatArray
    """(m, k) what each of Qᵀy adds to a line at each place."""

    def smooth(self, y: FloatArray, variance: float, confidence: float = 0.95) -> Smooth:
        """The line through (n,) ``y``, each of which varies around it by ``variance``.

        Args:
            confidence: of the pointwise band.
        """
        line = self._weights @ (self._q.T @ (self._root * y))
        half = normal_quantile(confidence) * np.sqrt(
            variance * np.square(self._weights).sum(axis=1)
        )
        return Smooth(self.at, line, line - half, line + half, self.knots)


def spline_smoother(
    x: FloatArray, at: FloatArray, count: IntArray | None = None
) -> SplineSmoother | None:
    """A smoother of points at (n,) ``x``, linear beyond the outer knots.

    Args:
        at: (m,) where lines are wanted.
        count: (n,) copies of each point; 1 when absent.

    Returns:
        None when fewer than three distinct x leave nothing to smooth.
    """
    if np.unique(x).size < 3:
        return None
    copies = np.ones(x.size, dtype=np.int64) if count is None else count
    knots = np.unique(sample_knots(x, copies, KNOTS))
    basis = _basis(x, knots)
    if x.size < knots.size or not _determined(basis):
        knots = knots[[0, -1]]  # too few points for a curve: a straight line
        basis = _basis(x, knots)
    root = np.sqrt(copies)
    q, r = np.linalg.qr(basis * root[:, None])
    return SplineSmoother(at, knots, root, q, np.linalg.solve(r.T, _basis(at, knots).T).T)


def _determined(basis: FloatArray) -> bool:
    own = np.abs(np.diag(np.linalg.qr(basis, mode="r")))
    return bool(own.min() > 1e-10 * own.max())


def _basis(x: FloatArray, knots: FloatArray) -> FloatArray:
    """(n, max(len(knots), 2)) 1, x and the restricted cubic terms, on the knots' own scale."""
    low, width = knots[0], (knots[-1] - knots[0]) or 1.0
    u, k = (x - low) / width, (knots - low) / width
    return np.column_stack([np.ones_like(u), u if k.size < 3 else cubic_columns(u, k)])

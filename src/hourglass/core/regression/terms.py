"""Columns that a term puts into a model
(methods.md, section 4: Proportional hazards regression, "Coding")."""

import numpy as np

from hourglass.core.arrays import FloatArray, IntArray
from hourglass.core.errors import NotEstimableError
from hourglass.core.sample_quantiles import sample_quantiles

KNOT_SHARES: dict[int, tuple[float, ...]] = {
    3: (0.1, 0.5, 0.9),
    4: (0.05, 0.35, 0.65, 0.95),
    5: (0.05, 0.275, 0.5, 0.725, 0.95),
}
"""Where so many knots lie among the values used."""


def level_columns(code: IntArray, levels: int, reference: int) -> FloatArray:
    """(n, levels − 1) one column a level but the reference, 1 where a row has it; codes 0 … levels − 1."""
    others = [k for k in range(levels) if k != reference]
    return np.asarray(code[:, None] == np.array(others, dtype=np.int64), dtype=np.float64)


def trend_column(code: IntArray, scores: FloatArray) -> FloatArray:
    """(n, 1) the score of each row's level."""
    return scores[code][:, None]


def powers(x: FloatArray, degree: int) -> FloatArray:
    """(n, degree) x, x², …"""
    return np.asarray(x[:, None] ** np.arange(1, degree + 1))


def sample_knots(x: FloatArray, count: IntArray, knots: int) -> FloatArray:
    """(knots,) 3, 4 or 5 knots at quantiles of the values (n,) with their copies (n,)."""
    return sample_quantiles(x, count, np.array(KNOT_SHARES[knots]))


def cubic_columns(x: FloatArray, knots: FloatArray) -> FloatArray:
    """(n, k − 1) x and the restricted cubic terms of its k knots: linear outside the outer ones.

    v_j(x) = [(x−k_j)₊³ − λ_j (x−a)₊³ − (1−λ_j)(x−b)₊³] / (b−a)², λ_j = (b−k_j)/(b−a).

    Raises:
        NotEstimableError: when there are fewer than 3 knots, or two are equal.
    """
    k = np.sort(knots)
    if k.size < 3 or (np.diff(k) == 0).any():
        raise NotEstimableError("a curve needs at least 3 knots, no two of them equal")
    a, b = k[0], k[-1]

    def cube(at: FloatArray) -> FloatArray:
        beyond = np.maximum(x[:, None] - at, 0.0)
        return beyond * beyond * beyond

    share = (b - k[1:-1]) / (b - a)
    curved = cube(k[1:-1]) - share * cube(k[:1]) - (1 - share) * cube(k[-1:])
    return np.column_stack([x, curved / (b - a) ** 2])


def products(a: FloatArray, b: FloatArray) -> FloatArray:
    """(n, p q) every column of ``a`` (n, p) times every column of ``b`` (n, q), those of b in turn."""
    return (a[:, :, None] * b[:, None, :]).reshape(a.shape[0], -1)

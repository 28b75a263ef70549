"""Random numbers that do not depend on who draws them (methods.md, section 1: Data).

Stream (s; k₁, k₂, …) is PCG64 (O'Neill 2014) seeded by NumPy's SeedSequence(s, spawn_key = (k₁, k₂, …)).
"""

import numpy as np
from scipy.special import ndtri

from hourglass.core.arrays import FloatArray, IntArray
from hourglass.core.errors import NotEstimableError

MAX_COPIES = 2_000_000
"""So many copies of rows are drawn, or recursed over, and no more."""


def uniforms(size: int, seed: int, *key: int) -> FloatArray:
    """(size,) u = (⌊raw/2¹²⌋ + ½) 2⁻⁵², from a stream's raw 64-bit words in order."""
    stream = np.random.PCG64(np.random.SeedSequence(seed, spawn_key=key))
    raw = stream.random_raw(size)
    return np.asarray(((raw >> np.uint64(12)).astype(np.float64) + 0.5) * 2.0**-52)


def places(n: int, size: int, seed: int, *key: int) -> IntArray:
    """(size,) each one of n: ⌊n u⌋."""
    return np.asarray(np.floor(n * uniforms(size, seed, *key)), dtype=np.int64)


def permutation(n: int, seed: int, *key: int) -> IntArray:
    """(n,) π, the stable ascending order of n draws: position i gets the value of place π(i)."""
    return ascending(uniforms(n, seed, *key))


def ascending(draws: FloatArray) -> IntArray:
    """(n,) the stable ascending order of draws: the fast one, unless two draws are equal."""
    order = np.argsort(draws)
    ordered = draws[order]
    if (ordered[1:] == ordered[:-1]).any():
        return np.argsort(draws, kind="stable")
    return order


def exponentials(size: int, seed: int, *key: int) -> FloatArray:
    """(size,) −ln(1 − u)."""
    return -np.log1p(-uniforms(size, seed, *key))


def normals(size: int, seed: int, *key: int) -> FloatArray:
    """(size,) Φ⁻¹(u)."""
    return np.asarray(ndtri(uniforms(size, seed, *key)))


def refuse_too_many(copies: int) -> None:
    """Refuse to draw among more copies than can be drawn.

    Raises:
        NotEstimableError: with the number there are.
    """
    if copies > MAX_COPIES:
        raise NotEstimableError(
            f"copies are drawn one by one, and {copies} are more than the {MAX_COPIES} there may be"
        )

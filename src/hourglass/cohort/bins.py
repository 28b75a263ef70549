"""Bins of a histogram that make no gap where the data have none."""

import math

import numpy as np
from numpy.typing import NDArray

MAX_DECIMALS = 9
EXACT = 2.0**53
"""Whole numbers up to this are exact."""


def bin_edges(
    values: NDArray[np.float64], most: int, decimals: int = 0
) -> NDArray[np.float64] | None:
    """(b + 1,) the edges of at most ``most`` equal bins over values.

    Values on a grid, such as whole numbers or multiples of 5, have bins of a whole number of its steps,
    with edges half-way between: each bin holds as many places of the grid as any other.

    Args:
        values: (n,) finite numbers, at least one, in any order.
        decimals: with how many the values are written.

    Returns:
        None where all values are one, or too far apart to be parted.
    """
    low, high = float(values.min()), float(values.max())
    if not np.isfinite(high - low) or high == low:
        return None
    step = _grid(values, decimals)
    if step is None:
        return np.linspace(low, high, most + 1)
    places = round((high - low) / step) + 1
    wide = math.ceil(places / most)
    bins = math.ceil(places / wide)
    return np.asarray(low - step / 2 + step * wide * np.arange(bins + 1))


def _grid(values: NDArray[np.float64], decimals: int) -> float | None:
    """The step of the coarsest grid that all values lie on; None where they lie on none."""
    unit = 10.0**decimals
    if not 0 <= decimals <= MAX_DECIMALS or np.abs(values).max() * unit >= EXACT:
        return None
    units = np.round(values * unit)
    if (np.abs(units / unit - values) > 1e-12 * np.abs(values)).any():
        return None
    apart = np.unique(units).astype(np.int64)
    return float(np.gcd.reduce(np.diff(apart))) / unit

"""The array types that the core speaks."""

from typing import TypeAlias

import numpy as np
from numpy.typing import NDArray

FloatArray: TypeAlias = NDArray[np.float64]
IntArray: TypeAlias = NDArray[np.int64]
BoolArray: TypeAlias = NDArray[np.bool_]


def evenly_placed(size: int, most: int) -> IntArray:
    """(k,) at most so many places from 0 to size − 1, ascending and evenly apart, the ends among them."""
    return np.unique(np.linspace(0, size - 1, min(most, size)).astype(np.int64))

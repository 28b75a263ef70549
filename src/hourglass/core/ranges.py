"""Ranges of whole numbers, one after the other, and places within runs of equal neighbours."""

import numpy as np

from hourglass.core.arrays import IntArray


def members(low: IntArray, high: IntArray) -> tuple[IntArray, IntArray]:
    """List the members of m ranges, from ``low`` (m,) up to but not with ``high`` (m,), in their order.

    Returns:
        (s,) the number of the range of each member, and (s,) the members; a range that ends where it
        begins, or before, has none.
    """
    sizes = np.maximum(high - low, 0)
    of = np.repeat(np.arange(low.size), sizes)
    return of, np.arange(of.size) - np.repeat(np.cumsum(sizes) - sizes - low, sizes)


def nth_of_run(values: IntArray) -> IntArray:
    """(N,) the place of each of N values in its run of equal neighbours, from 0."""
    every = np.arange(values.size)
    begins = np.ones(values.size, dtype=bool)
    begins[1:] = values[1:] != values[:-1]
    return every - np.maximum.accumulate(np.where(begins, every, 0))

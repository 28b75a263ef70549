"""Times that differ by rounding only are one time (methods.md, section 1: Data)."""

from dataclasses import dataclass

import numpy as np

from hourglass.core.arrays import FloatArray, IntArray

NEAR_TIE = 1e-13
"""Share of a time within which an earlier one is the same."""
CLOSE = 1e-9
"""Share of a time within which two that are left apart are worth a caution."""


@dataclass(frozen=True, slots=True)
class Chained:
    """Times after merging, with what was merged.

    Attributes:
        time: (n,) each time, or the first one of its cluster.
        order: (n,) their positions, ascending.
        merged: how many distinct times became a smaller one.
        close: how many neighbouring times that are left differ by at most 1e-9 of the larger.
    """

    time: FloatArray
    order: IntArray
    merged: int
    close: int


def chained(times: FloatArray, tolerance: float = NEAR_TIE) -> Chained:
    """Going up, a time t with t − f ≤ tolerance · t, f > 0 the first of its cluster, becomes f.

    Args:
        times: (n,) finite times.
        tolerance: 0 leaves all times apart.
    """
    order = np.argsort(times)
    ordered = times[order]
    new = np.concatenate([[True], ordered[1:] > ordered[:-1]])
    distinct = ordered[new]
    first = _first_of_cluster(distinct, tolerance)
    moved = first < np.arange(distinct.size)
    left = distinct[~moved]
    close = int(np.count_nonzero(_near(left[:-1], left[1:], CLOSE)))
    if not moved.any():
        return Chained(times, order, 0, close)
    time = np.empty_like(times)
    time[order] = distinct[first][np.cumsum(new) - 1]
    return Chained(time, order, int(moved.sum()), close)


def _near(earlier: FloatArray, later: FloatArray, tolerance: float) -> np.ndarray:
    return (earlier > 0) & (later - earlier <= tolerance * later)


def _first_of_cluster(distinct: FloatArray, tolerance: float) -> IntArray:
    """(m,) the place of the first time of the cluster that each of ``distinct`` belongs to.

    Only runs of near neighbours are gone through one by one: everywhere else each time opens a
    cluster of its own.
    """
    first = np.arange(distinct.size)
    near = _near(distinct[:-1], distinct[1:], tolerance)
    opens = 0
    for k in (np.flatnonzero(near) + 1).tolist():
        if k == 1 or not near[k - 2]:
            opens = k - 1
        if _near(distinct[opens], distinct[k], tolerance):
            first[k] = opens
        else:
            opens = k
    return first

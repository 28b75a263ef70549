"""What a pixel can show of many points: the extremes of every column of pixels, and no more."""

import numpy as np

from hourglass.core.arrays import BoolArray, FloatArray, IntArray

POINTS_NEVER_THINNED = 1500
"""So many points are never thinned."""
MAX_POINTS = 4000


def kept_of_steps(
    x: FloatArray, values: list[FloatArray], low: float, high: float, columns: int
) -> IntArray:
    """Places of the points that show the same picture between two ends as all do.

    Of each of ``columns`` columns of pixels the first, the last, the lowest and the highest point of
    every one of ``values`` (n,) each is kept; beyond the ends, the nearest point on each side.
    """
    first = max(int(np.searchsorted(x, low, side="right")) - 1, 0)
    last = min(int(np.searchsorted(x, high, side="left")) + 1, x.size)
    if last - first <= POINTS_NEVER_THINNED:
        return np.arange(first, last)
    inside = x[first:last]
    column = np.floor((inside - low) / (high - low) * columns).astype(np.int64)
    starts = np.flatnonzero(np.concatenate([[True], column[1:] != column[:-1]]))
    ends = np.concatenate([starts[1:], [column.size]]) - 1
    # A line through a column of pixels enters at its first point and leaves at its last, and inks what lies
    # between its lowest and highest: with these four kept, the ink is that of all its points.
    keep = np.zeros(column.size, dtype=bool)
    keep[starts] = keep[ends] = True
    of = np.repeat(np.arange(starts.size), ends - starts + 1)
    for value in values:
        part = value[first:last]
        _keep_extremes(keep, part, starts, ends, of)
    return first + np.flatnonzero(keep)


def _keep_extremes(
    keep: BoolArray, part: FloatArray, starts: IntArray, ends: IntArray, of: IntArray
) -> None:
    edge_low = np.fmin(part[starts], part[ends])
    edge_high = np.fmax(part[starts], part[ends])
    lowest, highest = np.fmin.reduceat(part, starts), np.fmax.reduceat(part, starts)
    for extreme, beyond in ((lowest, lowest < edge_low), (highest, highest > edge_high)):
        if not beyond.any():
            continue
        # An extreme that the first or last point reaches is kept already; of equal ones one will do.
        hit = np.flatnonzero(beyond[of] & (part == extreme[of]))
        keep[hit[np.unique(of[hit], return_index=True)[1]]] = True


def kept_of_points(
    x: FloatArray,
    y: FloatArray,
    columns: int,
    rows: int,
    ends: tuple[float, float, float, float],
    most: int = MAX_POINTS,
) -> IntArray:
    """Places of at most ``most`` points, spread as all are: one in each cell of a grid.

    ``ends`` are the window's left, right, lower and upper limits, in the units of x and y; points
    outside it are left out.
    """
    left, right, low, high = ends
    inside = np.flatnonzero((x >= left) & (x <= right) & (y >= low) & (y <= high))
    if inside.size <= most:
        return inside
    across = (x[inside] - left) / (right - left)
    up = (y[inside] - low) / (high - low)
    for coarser in range(1, 64):
        wide, tall = max(columns // coarser, 1), max(rows // coarser, 1)
        cell = np.floor(across * wide).astype(np.int64) * (tall + 1)
        cell += np.floor(up * tall).astype(np.int64)
        first = _first_of(cell, (wide + 1) * (tall + 1))
        if first.size <= most:
            return np.asarray(inside[first])
    return inside[:most]


def _first_of(cell: IntArray, cells: int) -> IntArray:
    """The first place of each cell that occurs, ascending; without sorting the cells."""
    first = np.full(cells, -1)
    first[cell[::-1]] = np.arange(cell.size)[::-1]  # of those written to a cell, the last one stays
    return np.sort(first[first >= 0])

"""Sums over the nearest values of each value, weighted by their distance, from moments about few anchors
(Cleveland 1979)."""

from dataclasses import dataclass

import numpy as np

from hourglass.core.arrays import FloatArray, IntArray

MOMENTS = 12
"""A tricube is a polynomial of degree 9 on either side of its centre, and is multiplied by a square."""
NEAR = 0.5
"""Centres this share of a reach apart share an anchor: moments moved so little keep their digits."""
STRETCH = 1 << 9
"""So many values are added up before their sum is added to the others', so that rounding stays small."""
AT_ONCE = 1 << 17
"""So many windows at most share an anchor, so that their moments need little room."""
TRICUBE = ((0, 1.0), (3, -3.0), (6, 3.0), (9, -1.0))
"""Powers of the distance in (1 − u³)³, and their coefficients."""


@dataclass(frozen=True, slots=True)
class Windows:
    """For each of m values: the first and last of the values nearest to it, and the farthest's distance."""

    first: IntArray
    last: IntArray
    reach: FloatArray


def windows_of(value: FloatArray, copies: FloatArray, span: float) -> Windows:
    """The ⌊span · n⌋ nearest copies of each value lie side by side: where they begin is bisected."""
    beyond = np.cumsum(copies).astype(np.int64)
    wanted = max(int(span * beyond[-1] * (1 + 1e-12)), 1)
    low, high = np.zeros(value.size, dtype=np.int64), np.full(value.size, beyond[-1] - wanted)
    while (low < high).any():
        middle = (low + high) // 2
        left = value[np.searchsorted(beyond, middle, side="right")]
        next_right = value[
            np.searchsorted(beyond, np.minimum(middle + wanted, beyond[-1] - 1), "right")
        ]
        nearer = next_right - value < value - left
        low, high = np.where(nearer, middle + 1, low), np.where(nearer, high, middle)
        low = np.minimum(low, high)
    first = np.searchsorted(beyond, low, side="right")
    last = np.searchsorted(beyond, low + wanted - 1, side="right")
    return Windows(first, last, np.maximum(value - value[first], value[last] - value))


def window_sums(
    value: FloatArray, weight: FloatArray, heights: FloatArray, windows: Windows
) -> FloatArray:
    """(5, m) Σ w k, Σ w k u, Σ w k u², Σ h k, Σ h k u over each value's window.

    k is the tricube of u, the distance from the value over its window's reach. Windows whose values
    lie side by side are differences of running moments about a value among them, so that nothing is
    visited once for each window. What is lost to rounding is a share of the window's whole weight.

    Args:
        value: (m,) distinct values, ascending; ``weight`` w, ``heights`` h: (m,) of each.
    """
    found = np.empty((5, value.size))
    start = 0
    while start < value.size:
        end = np.searchsorted(value, value[start] + NEAR * windows.reach[start], side="right")
        some = slice(start, min(max(int(end), start + 1), start + AT_ONCE))
        found[:, some] = _about_an_anchor(value, np.stack([weight, heights]), windows, some)
        start = some.stop
    return found


def _about_an_anchor(
    value: FloatArray, carried: FloatArray, windows: Windows, some: slice
) -> FloatArray:
    """(5, q) the sums of neighbouring windows."""
    first, last, own = windows.first[some], windows.last[some], value[some]
    low, high = int(first.min()), int(last.max()) + 1
    anchor = value[(some.start + some.stop - 1) // 2]
    scale = max(anchor - value[low], value[high - 1] - anchor) or 1.0
    v = _stretched((value[low:high] - anchor)[None] / scale)
    power = _stretched(carried[:, low:high])
    upto, at = np.empty_like(power), slice(some.start - low, some.stop - low)
    begins, ends = first - low, last + 1 - low
    sides = np.empty((MOMENTS, 2, 2, own.size))
    for k in range(MOMENTS):
        before = _running(power, upto)
        here = before[:, at]
        np.subtract(here, before.take(begins, axis=1), out=sides[k, 0])
        np.subtract(before.take(ends, axis=1), here, out=sides[k, 1])
        power *= v
    away = (own - anchor) / scale
    for k in range(1, MOMENTS):
        sides[k:] -= away * sides[k - 1 : -1]
    reach = windows.reach[some]
    sides *= (scale / np.where(reach > 0, reach, 1.0)) ** np.arange(MOMENTS)[:, None, None, None]
    # On the left u is below 0, where the tricube is (1 + u³)³.
    level, height = (
        [
            sum(c * (sides[p + k, 1, of] + (-1) ** p * sides[p + k, 0, of]) for p, c in TRICUBE)
            for k in range(3 - of)
        ]
        for of in (0, 1)
    )
    return np.stack([*level, *height])


def _stretched(values: FloatArray) -> FloatArray:
    """(k, stretches, STRETCH) the values (k, m) in stretches, a 0 before them and some after."""
    rows, size = values.shape
    found = np.zeros((rows, size // STRETCH + 1, STRETCH))
    found.reshape(rows, -1)[:, 1 : size + 1] = values
    return found


def _running(stretched: FloatArray, out: FloatArray) -> FloatArray:
    """(k, m + 1) the sum of the values before each place, by stretches."""
    np.cumsum(stretched, axis=2, out=out)
    out[:, 1:] += np.cumsum(out[:, :-1, -1], axis=1)[:, :, None]
    return out.reshape(out.shape[0], -1)

"""Running sums within segments of an array, be they few and long or many and short: nothing is
subtracted."""

from dataclasses import dataclass
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from hourglass.core.arrays import BoolArray, FloatArray, IntArray

N = TypeVar("N", np.float64, np.int64)
LONG = 1 << 10
"""Segments of more values are gone through one by one; shorter ones together with those of like length."""


@dataclass(frozen=True, slots=True)
class Segments:
    """Neighbouring segments that cover an array of N values from its first value on.

    Attributes:
        last: (N,) whether a value is the last of its segment.
        alone: those that are gone through by themselves, as (start, end).
        together: of the others, (m, L) the places of those of like length, a place past the end
            where one is shorter.
    """

    last: BoolArray
    alone: tuple[tuple[int, int], ...]
    together: tuple[IntArray, ...]

    def running(self, values: FloatArray) -> FloatArray:
        """(N,) the sum of each segment's values up to and with each."""
        return self._each(np.add, values, 0.0, backwards=False)

    def after(self, values: FloatArray) -> FloatArray:
        """(N,) the sum of each segment's values after each."""
        return self._next(self._each(np.add, values, 0.0, backwards=True), 0.0)

    def largest_after(self, values: IntArray) -> IntArray:
        """(N,) the largest of each segment's values, all ≥ −1, after each; −1 after the last."""
        return self._next(self._each(np.maximum, values, -1, backwards=True), -1)

    def _next(self, found: NDArray[N], nothing: float) -> NDArray[N]:
        after = np.full_like(found, nothing)
        np.copyto(after[:-1], found[1:], where=~self.last[:-1])
        return after

    def _each(
        self, add: np.ufunc, values: NDArray[N], nothing: float, *, backwards: bool
    ) -> NDArray[N]:
        found = np.empty_like(values)
        way = slice(None, None, -1 if backwards else 1)
        for start, end in self.alone:
            found[start:end][way] = add.accumulate(values[start:end][way])
        if self.together:
            longer = np.append(values, np.array([nothing], dtype=values.dtype))
            kept = np.append(found, found[:1])
            for places in self.together:
                kept[places] = add.accumulate(longer[places][:, way], axis=1)[:, way]
            found = kept[:-1]
        return found


def segments(starts: IntArray, size: int) -> Segments:
    """Prepare the segments of an array of ``size`` that begin at ``starts``, ascending from 0; O(N)."""
    ends = np.append(starts[1:], size)[: starts.size]
    length = ends - starts
    long = (length > LONG) | (starts.size == 1)
    alone = tuple((int(a), int(b)) for a, b in zip(starts[long], ends[long], strict=True))
    together = []
    kind = np.where(long | (length == 0), -1, np.ceil(np.log2(np.maximum(length, 1)))).astype(int)
    for k in range(int(kind.max(initial=-1)) + 1):
        own = np.flatnonzero(kind == k)
        if own.size:
            places = starts[own, None] + np.arange(1 << k)
            together.append(np.where(places < ends[own, None], places, size))
    last = np.zeros(size, dtype=bool)
    last[ends[length > 0] - 1] = True
    return Segments(last, alone, tuple(together))

"""Sums over spans of event times, by adding only: nothing is subtracted, so nothing cancels."""

from dataclasses import dataclass
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from hourglass.core.arrays import FloatArray, IntArray
from hourglass.core.ranges import members

N = TypeVar("N", np.float64, np.int64)
NEXT = 0.6
"""The power of a block's size that the next smaller one has."""
MIN_SPAN = 8
"""Spans within a block of this size are added up as they are."""


@dataclass(frozen=True, slots=True, kw_only=True)
class _Level:
    """Spans that reach from one block of a size into another of the same parent.

    Each is the rest of its first block, the whole blocks between, and the beginning of its last.

    Attributes:
        spans: (m,) which; ``first``, ``last``: (m,) the first and last event time of each.
        block: the size of a block; ``across``: how many make a parent.
        cell: (m,) first and last block within the parent, as one number.
    """

    spans: IntArray
    first: IntArray
    last: IntArray
    block: int
    across: int
    cell: IntArray


@dataclass(frozen=True, slots=True, kw_only=True)
class Spans:
    """For m rows, each at risk at the event times first ≤ j ≤ last, out of K.

    Attributes:
        size: K, and ``padded``, the next multiple of all sizes of blocks.
        levels: the spans by the size of the blocks that part them.
        short: the other spans, once for each time in them; ``short_time``: that time.
    """

    count: int
    size: int
    padded: int
    levels: tuple[_Level, ...]
    short: IntArray
    short_time: IntArray

    def spread(self, values: FloatArray) -> FloatArray:
        """(K,) the sum of ``values`` (m,) over the rows at risk at each event time."""
        total = np.zeros(self.padded)
        if self.short.size:
            total += np.bincount(self.short_time, values[self.short], self.padded)
        for level in self.levels:
            own = values[level.spans]
            rows = (-1, level.block)
            # A span covers its first block from its first time on, its last up to its last time, and the
            # blocks between whole. First and last differ (else the next level has it): no time counts twice.
            total += np.cumsum(
                np.bincount(level.first, own, self.padded).reshape(rows), axis=1
            ).ravel()
            ending = np.bincount(level.last, own, self.padded).reshape(rows)
            total += np.cumsum(ending[:, ::-1], axis=1)[:, ::-1].ravel()
            if level.across > 2:
                total += np.repeat(self._between(level, own), level.block)
        return total[: self.size]

    def largest(self, values: IntArray) -> IntArray:
        """(K,) the largest of ``values`` (m,), all ≥ 0, at risk at each event time; −1 where none is."""
        best = _largest(self.short_time, values[self.short], self.padded)
        for level in self.levels:
            own, rows, a = values[level.spans], (-1, level.block), level.across
            started = _largest(level.first, own, self.padded).reshape(rows)
            ending = _largest(level.last, own, self.padded).reshape(rows)[:, ::-1]
            np.maximum(best, np.maximum.accumulate(started, axis=1).ravel(), out=best)
            np.maximum(best, np.maximum.accumulate(ending, axis=1)[:, ::-1].ravel(), out=best)
            if a > 2:
                table = _largest(level.cell, own, self.padded // level.block * a)
                going_on = np.maximum.accumulate(table.reshape(-1, a, a), axis=1)[:, :, ::-1]
                between = _inner(np.maximum.accumulate(going_on, axis=2)[:, :, ::-1], -1)
                np.maximum(best, np.repeat(between, level.block), out=best)
        return best[: self.size]

    def gather(self, step: FloatArray) -> FloatArray:
        """(m,) the sum of ``step`` (K,) over each row's span."""
        padded = np.zeros(self.padded)
        padded[: self.size] = step
        total = np.zeros(self.count)
        if self.short.size:
            total += np.bincount(self.short, padded[self.short_time], self.count)
        for level in self.levels:
            blocks = padded.reshape(-1, level.block)
            from_start = np.cumsum(blocks, axis=1)
            to_end = np.cumsum(blocks[:, ::-1], axis=1)[:, ::-1]
            total[level.spans] += to_end.ravel()[level.first] + from_start.ravel()[level.last]
            if level.across > 2:
                sums = _running(from_start[:, -1].reshape(-1, level.across))
                total[level.spans] += sums.ravel()[level.cell]
        return total

    def _between(self, level: _Level, values: FloatArray) -> FloatArray:
        """For each block, (blocks,), the sum over the spans that begin before it and end after it."""
        a = level.across
        cells = self.padded // level.block * a
        # Cell (i, j) of a parent holds the spans from its block i to its block j. Those that cover block b
        # whole have i < b < j: running sums down i and back from j leave them at (b − 1, b + 1).
        table = np.asarray(np.bincount(level.cell, values, cells), dtype=np.float64)
        going_on = np.cumsum(table.reshape(-1, a, a), axis=1)[:, :, ::-1]
        return _inner(np.cumsum(going_on, axis=2)[:, :, ::-1], 0.0)


def _inner(going_on: NDArray[N], nothing: float) -> NDArray[N]:
    """(blocks,) of each block what started before it and goes on after it."""
    parents, a, _ = going_on.shape
    found = np.full((parents, a), nothing, dtype=going_on.dtype)
    inner = np.arange(1, a - 1)
    found[:, 1:-1] = going_on[:, inner - 1, inner + 1]
    return found.ravel()


def _largest(place: IntArray, values: IntArray, size: int) -> IntArray:
    found = np.full(size, -1, dtype=np.int64)
    np.maximum.at(found, place, values)
    return found


def _running(blocks: FloatArray) -> FloatArray:
    """(parents, a, a) the sum of the blocks strictly between two of the same parent."""
    parents, a = blocks.shape
    found = np.zeros((parents, a, a))
    for first in range(a - 2):
        found[:, first, first + 2 :] = np.cumsum(blocks[:, first + 1 : -1], axis=1)
    return found


def spans(first: IntArray, beyond: IntArray, size: int) -> Spans:
    """Prepare the spans first ≤ j < beyond (m,) over ``size`` event times; O(m + K)."""
    blocks = [max(size, 1)]
    while blocks[-1] > MIN_SPAN:
        blocks.append(max(round(blocks[-1] ** NEXT), 2))
    # From the smallest up each size is a multiple of the one before, so a block lies in one parent.
    sizes = [blocks[-1]]
    for wanted in reversed(blocks[:-1]):
        sizes.append(sizes[-1] * -(-wanted // sizes[-1]))
    padded = sizes[-1]
    some = np.flatnonzero(beyond > first)
    low, high = first[some], beyond[some] - 1
    levels = []
    for parent, block in zip(sizes[:0:-1], sizes[-2::-1], strict=True):
        if int((high - low).sum()) <= 2 * padded:
            break  # what is left costs less as it is than one more level
        # Every span still here lies in one parent: those that two blocks part are this level's, the others
        # lie in one block, which is the parent of the next.
        parted = low // block != high // block
        rows, a, b = some[parted], low[parted], high[parted]
        if rows.size:
            across = parent // block
            cell = (a // parent * across + a % parent // block) * across + b % parent // block
            levels.append(
                _Level(spans=rows, first=a, last=b, block=block, across=across, cell=cell)
            )
        some, low, high = some[~parted], low[~parted], high[~parted]
    of, short_time = members(low, high + 1)
    return Spans(
        count=first.size,
        size=size,
        padded=padded,
        levels=tuple(levels),
        short=some[of],
        short_time=short_time,
    )

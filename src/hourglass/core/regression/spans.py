"""Sums over spans of event times, by adding only: nothing is subtracted, so nothing cancels."""

from dataclasses import dataclass

import numpy as np

from hourglass.core.arrays import FloatArray, IntArray


@dataclass(frozen=True, slots=True)
class Spans:
    """For m rows, each at risk at the event times first ≤ j < beyond, out of K.

    A span is cut into O(log K) blocks of a binary tree over the event times. Each of ``levels``
    holds the rows and the tree nodes of one round of that cutting.
    """

    width: int
    size: int
    count: int
    levels: tuple[tuple[IntArray, IntArray], ...]

    def spread(self, values: FloatArray) -> FloatArray:
        """(K, …) the sum of ``values`` (m, …) over the rows at risk at each event time."""
        tree = np.zeros((2 * self.width, *values.shape[1:]))
        for rows, nodes in self.levels:
            np.add.at(tree, nodes, values[rows])
        start = 1
        while start < self.width:
            parents = tree[start : 2 * start]
            tree[2 * start : 4 * start : 2] += parents
            tree[2 * start + 1 : 4 * start : 2] += parents
            start *= 2
        return tree[self.width : self.width + self.size]

    def largest(self, values: IntArray) -> IntArray:
        """(K,) the largest of ``values`` (m,), all ≥ 0, at risk at each event time; −1 where none is."""
        tree = np.full(2 * self.width, -1, dtype=np.int64)
        for rows, nodes in self.levels:
            np.maximum.at(tree, nodes, values[rows])
        start = 1
        while start < self.width:
            parents = np.repeat(tree[start : 2 * start], 2)
            tree[2 * start : 4 * start] = np.maximum(tree[2 * start : 4 * start], parents)
            start *= 2
        return tree[self.width : self.width + self.size]

    def gather(self, step: FloatArray) -> FloatArray:
        """(m,) the sum of ``step`` (K,) over each row's span."""
        tree = np.zeros(2 * self.width)
        tree[self.width : self.width + self.size] = step
        start = self.width // 2
        while start >= 1:
            tree[start : 2 * start] = (
                tree[2 * start : 4 * start : 2] + tree[2 * start + 1 : 4 * start : 2]
            )
            start //= 2
        total = np.zeros(self.count)
        for rows, nodes in self.levels:
            total[rows] += tree[nodes]
        return total


def spans(first: IntArray, beyond: IntArray, size: int) -> Spans:
    """Cut the spans first ≤ j < beyond (m,) over ``size`` event times into blocks; O(m log K)."""
    width = 1
    while width < size:
        width *= 2
    low, high = first + width, np.maximum(beyond, first) + width
    rows = np.arange(first.size)
    levels: list[tuple[IntArray, IntArray]] = []
    while rows.size:
        open_ = low < high
        rows, low, high = rows[open_], low[open_], high[open_]
        odd = low % 2 == 1
        levels.append((rows[odd], low[odd]))
        low = low + odd
        odd = high % 2 == 1
        levels.append((rows[odd], high[odd] - 1))
        low, high = low // 2, (high - odd) // 2
    return Spans(width, size, first.size, tuple(pair for pair in levels if pair[0].size))

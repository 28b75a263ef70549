"""Neighbouring values gathered into runs of doubling length, so that a window is a few of them."""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from hourglass.core.arrays import FloatArray, IntArray

EXACT = 12
"""So many places carry every sum of a polynomial of degree 11: a line times the weight of a side."""


@dataclass(frozen=True, slots=True)
class Runs:
    """Runs of as many neighbouring values each, with places that stand for its points.

    Up to eight values the places are the values themselves. For longer runs they are Chebyshev's
    twelve, with weights that give every sum of a polynomial of degree 11 as the points do.

    Attributes:
        origin: (runs,) the first value of each, exact.
        at: (runs, places) the places, from the origin; ``weight``, ``heights``: their weights, and
            weighted heights.
    """

    origin: FloatArray
    at: FloatArray
    weight: FloatArray
    heights: FloatArray

    def some(self, which: IntArray) -> "Runs":
        """Some of the runs."""
        return Runs(self.origin[which], self.at[which], self.weight[which], self.heights[which])


@dataclass(frozen=True, slots=True)
class RunTree:
    """Runs of 1, 2, 4, … values."""

    levels: tuple[Runs, ...]

    @classmethod
    def of(cls, value: FloatArray, weight: FloatArray, heights: FloatArray) -> "RunTree":
        """The runs of m values, the last one of a length left out where it is short."""
        levels = [Runs(value, np.zeros((value.size, 1)), weight[:, None], heights[:, None])]
        while levels[-1].origin.size > 1:
            levels.append(_joined(levels[-1], value, 1 << len(levels)))
        return cls(tuple(levels))

    def within(
        self, first: IntArray, beyond: IntArray, middle: IntArray
    ) -> Iterator[tuple[IntArray, Runs]]:
        """For windows first ≤ i < beyond (k,), the runs that make them up: which windows have one, and
        it. No run crosses ``middle`` (k,), where the weight of distance has its corner.
        """
        windows = np.arange(first.size)
        for begins, ends in ((first, middle), (middle, beyond)):
            low, high = begins, ends
            for runs in self.levels:
                for there, run in ((low % 2 == 1, low), (high % 2 == 1, high - 1)):
                    which = windows[there & (low < high)]
                    if which.size:
                        yield which, runs.some(run[which])
                low, high = (low + 1) // 2, high // 2


def _joined(runs: Runs, value: FloatArray, size: int) -> Runs:
    """Every run with its neighbour: runs of ``size`` of the values (m,)."""
    half = runs.origin.size // 2
    pairs = slice(0, 2 * half)
    origin = runs.origin[pairs][::2]
    at = runs.at[pairs].reshape(half, -1).copy()
    at[:, runs.at.shape[1] :] += (runs.origin[1::2][:half] - origin)[:, None]
    weight, heights = (part[pairs].reshape(half, -1) for part in (runs.weight, runs.heights))
    if at.shape[1] <= 8:
        return Runs(origin, at, weight, heights)
    return _carried(origin, at, weight, heights, value[size - 1 :: size][:half] - origin)


def _carried(
    origin: FloatArray, at: FloatArray, weight: FloatArray, heights: FloatArray, length: FloatArray
) -> Runs:
    """Chebyshev's places on runs of some ``length`` (runs,), and the weights carried over to them."""
    angle = np.pi * (np.arange(EXACT) + 0.5) / EXACT
    half = length / 2
    v = at / half[:, None] - 1
    # Σ_k' T_k(node) T_k(v) is the polynomial that is 1 at a node and 0 at the others.
    level, height = np.zeros((2, half.size, EXACT))
    before, now = np.zeros_like(v), np.ones_like(v)
    for k in range(EXACT):
        share = np.cos(k * angle) * ((1 if k == 0 else 2) / EXACT)
        level += (weight * now).sum(axis=1)[:, None] * share
        height += (heights * now).sum(axis=1)[:, None] * share
        before, now = now, (v if k == 0 else 2 * v * now - before)
    return Runs(origin, half[:, None] * (1 + np.cos(angle)), level, height)

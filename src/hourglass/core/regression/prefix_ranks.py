"""Counting "how many of the first m have a smaller key", for many questions at once."""

import numpy as np

from hourglass.core.arrays import FloatArray, IntArray


class PrefixRanks:
    """A sequence of n ranked items with weights, asked for the weight in a prefix below a rank.

    The ranks are sorted bit by bit (a wavelet matrix), so building and each batch of questions
    takes O(log n) vectorised passes.
    """

    def __init__(self, rank: IntArray, weight: FloatArray) -> None:
        self._bits = max(int(rank.max(initial=0)).bit_length(), 1)
        self._levels: list[tuple[IntArray, FloatArray, int]] = []
        self._total = np.concatenate([[0.0], np.cumsum(weight)])
        for bit in reversed(range(self._bits)):
            zero = (rank >> bit) & 1 == 0
            zeros_before = np.concatenate([[0], np.cumsum(zero)])
            zero_weight = np.concatenate([[0.0], np.cumsum(np.where(zero, weight, 0.0))])
            self._levels.append((zeros_before, zero_weight, int(zeros_before[-1])))
            rank = np.concatenate([rank[zero], rank[~zero]])
            weight = np.concatenate([weight[zero], weight[~zero]])

    def total(self, first: IntArray) -> FloatArray:
        """Weight of the first ``first`` items."""
        return self._total[first]

    def below(self, first: IntArray, rank: IntArray) -> FloatArray:
        """Weight of those among the first ``first`` (m,) items whose rank is < ``rank`` (m,)."""
        low, high = np.zeros_like(first), first.copy()
        found = np.zeros(first.size)
        beyond = rank >= 1 << self._bits
        for level, (zeros_before, zero_weight, zeros) in enumerate(self._levels):
            one = (rank >> (self._bits - 1 - level)) & 1 == 1
            found += np.where(one & ~beyond, zero_weight[high] - zero_weight[low], 0.0)
            low_zero, high_zero = zeros_before[low], zeros_before[high]
            low = np.where(one, zeros + low - low_zero, low_zero)
            high = np.where(one, zeros + high - high_zero, high_zero)
        return np.where(beyond, self._total[first], found)

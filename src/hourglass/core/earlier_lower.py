"""For every item of a sequence, what stands before it and below, or after it and above: O(n log n)."""

from typing import Any, TypeVar

import numpy as np
from numpy.typing import NDArray

from hourglass.core.arrays import FloatArray, IntArray

W = TypeVar("W", np.float64, np.int32)


def earlier_lower(rank: IntArray, weight: FloatArray) -> FloatArray:
    """(c, n) for each item the weight of those earlier in the sequence with a lower rank.

    Args:
        rank: (n,) 0 … n − 1, each once, in the order of the sequence.
        weight: (c, n) several weights of each item.
    """
    return both_sides(rank, weight, weight[:0])[0]


def both_sides(
    rank: IntArray, earlier: NDArray[W], later: NDArray[W]
) -> tuple[NDArray[W], NDArray[W]]:
    """For each item the weights of those earlier and lower (c, n), and of those later and higher (d, n).

    The sequence is parted by the bits of the ranks, the highest first: whoever has a bit is above
    those of its block that have not. Parting keeps the order, so memory is read in order.

    Args:
        rank: (n,) 0 … n − 1, each once, in the order of the sequence.
        earlier: (c, n) weights that count for those later and higher; ``later``: (d, n) weights that
            count for those earlier and lower. Whole numbers whose sum fits their type stay exact,
            and small ones take less memory.
    """
    n = rank.size
    r, w, v = rank.astype(np.int32), list(earlier), list(later)
    kind = earlier.dtype
    nothing = np.zeros(1, dtype=kind)
    below, above = [np.zeros(n, dtype=kind) for _ in w], [np.zeros(n, dtype=kind) for _ in v]
    block = np.zeros(1, dtype=np.int64)  # the higher bits of each block, in the order they lie
    for bit in reversed(range((n - 1).bit_length())):
        has_bit = (r >> bit) & 1
        one, zero = np.flatnonzero(has_bit), np.flatnonzero(has_bit == 0)
        zeros = np.clip(n - (2 * block << bit), 0, 1 << bit)
        ones = np.clip(n - (2 * block + 1 << bit), 0, 1 << bit)
        zeros_before = one - np.arange(one.size)
        block_zeros = np.repeat(np.cumsum(zeros) - zeros, ones)
        for k, own in enumerate(w):
            low = own[zero]
            sums = np.concatenate([nothing, np.cumsum(low, dtype=kind)])
            more = sums[zeros_before] - sums[block_zeros]
            below[k] = np.concatenate([below[k][zero], below[k][one] + more])
            w[k] = np.concatenate([low, own[one]])
        if v:
            ones_before = zero - np.arange(zero.size)
            block_ones = np.repeat(np.cumsum(ones), zeros)
        for k, own in enumerate(v):
            high = own[one]
            sums = np.concatenate([nothing, np.cumsum(high, dtype=kind)])
            more = sums[block_ones] - sums[ones_before]
            above[k] = np.concatenate([above[k][zero] + more, above[k][one]])
            v[k] = np.concatenate([own[zero], high])
        r = np.concatenate([r[zero], r[one]])
        block = np.concatenate([2 * block[zeros > 0], 2 * block[ones > 0] + 1])
    return _in_sequence(below, r, rank), _in_sequence(above, r, rank)


def _in_sequence(found: list[NDArray[W]], parted: NDArray[Any], rank: IntArray) -> NDArray[W]:
    by_rank = np.empty((len(found), rank.size), dtype=found[0].dtype if found else np.float64)
    for k, own in enumerate(found):
        by_rank[k, parted] = own
    return by_rank[:, rank]

"""For every item of a sequence, what stands earlier and lower: O(n log n), by passes in order."""

import numpy as np

from hourglass.core.arrays import FloatArray, IntArray


def earlier_lower(rank: IntArray, weight: FloatArray) -> FloatArray:
    """(c, n) for each item the weight of those earlier in the sequence with a lower rank.

    The sequence is parted by the bits of the ranks, the highest first: whoever has a bit is above
    those before it in its block that have not. Parting keeps the order, so memory is read in order.

    Args:
        rank: (n,) 0 … n − 1, each once, in the order of the sequence.
        weight: (c, n) several weights of each item.
    """
    n = rank.size
    r, w = rank, list(weight)
    found = [np.zeros(n) for _ in w]
    block = np.zeros(1, dtype=np.int64)  # the higher bits of each block, in the order they lie
    for bit in reversed(range((n - 1).bit_length())):
        has_bit = (r >> bit) & 1
        one = np.flatnonzero(has_bit)
        zero = np.flatnonzero(has_bit == 0)
        zeros = np.clip(n - (2 * block << bit), 0, 1 << bit)
        ones = np.clip(n - (2 * block + 1 << bit), 0, 1 << bit)
        opens = np.cumsum(zeros) - zeros  # zeros before each block
        before = one - np.arange(one.size)  # zeros before each one
        for k, own in enumerate(w):
            low = own[zero]
            sums = np.concatenate([[0.0], np.cumsum(low)])
            above = found[k][one] + (sums[before] - np.repeat(sums[opens], ones))
            found[k] = np.concatenate([found[k][zero], above])
            w[k] = np.concatenate([low, own[one]])
        r = np.concatenate([r[zero], r[one]])
        block = np.concatenate([2 * block[zeros > 0], 2 * block[ones > 0] + 1])
    by_rank = np.empty((len(found), n))
    by_rank[:, r] = found
    return by_rank[:, rank]


def ranks(values: FloatArray) -> IntArray:
    """(n,) the place of each value, ascending; of equal values the earlier one comes first."""
    order = np.argsort(values, kind="stable")
    place = np.empty(order.size, dtype=np.int64)
    place[order] = np.arange(order.size)
    return place

"""For every item of a sequence, what stands before it and below, or after it and above: O(n log n)."""

from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from hourglass.core.arrays import FloatArray, IntArray

W = TypeVar("W", np.float64, np.int32)

ITEM_BY_ITEM_BITS = 5
"""Blocks of so many bits are compared item by item."""


def earlier_lower(rank: IntArray, weight: FloatArray) -> FloatArray:
    """(c, n) for each item the weight of those earlier in the sequence with a lower rank.

    Args:
        rank: (n,) 0 … n − 1, each once, in the order of the sequence.
        weight: (c, n) several weights of each item.
    """
    return both_sides(rank, weight, weight[:0])[0]


def both_sides(
    rank: NDArray[np.integer], earlier: NDArray[W], later: NDArray[W]
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
    more = -rank.size % (
        1 << ITEM_BY_ITEM_BITS
    )  # filled up with items that weigh nothing, so that blocks are whole
    n, kind = rank.size + more, earlier.dtype
    r = np.concatenate([rank.astype(np.int32), np.arange(rank.size, n, dtype=np.int32)])
    w, v = (
        [np.append(own, np.zeros(more, dtype=kind)) for own in side] for side in (earlier, later)
    )
    below, above = ([np.zeros(n, dtype=kind) for _ in side] for side in (w, v))
    block = np.zeros(1, dtype=np.int64)  # the higher bits of each block, in the order they lie
    for bit in reversed(range(ITEM_BY_ITEM_BITS, (n - 1).bit_length())):
        has_bit = (r & (1 << bit)) != 0
        one, zero = np.flatnonzero(has_bit), np.flatnonzero(~has_bit)
        zeros = np.clip(n - (2 * block << bit), 0, 1 << bit)
        ones = np.clip(n - (2 * block + 1 << bit), 0, 1 << bit)
        r = np.concatenate([r[zero], r[one]])
        begins, ends = np.repeat(np.cumsum(zeros) - zeros, ones), one - np.arange(one.size)
        for k, own in enumerate(w):
            low = own[zero]
            added = _between(low, begins, ends)
            below[k] = np.concatenate([below[k][zero], below[k][one] + added])
            w[k] = np.concatenate([low, own[one]])
        if v:
            begins, ends = zero - np.arange(zero.size), np.repeat(np.cumsum(ones), zeros)
        for k, own in enumerate(v):
            high = own[one]
            added = _between(high, begins, ends)
            above[k] = np.concatenate([above[k][zero] + added, above[k][one]])
            v[k] = np.concatenate([own[zero], high])
        block = np.concatenate([2 * block[zeros > 0], 2 * block[ones > 0] + 1])
    for k, own in enumerate(w):
        below[k] += _lower_in_block(r, own)
    for k, own in enumerate(v):
        above[k] += _lower_in_block(r[::-1], own[::-1], -1)[::-1]
    return _in_sequence(below, r, rank), _in_sequence(above, r, rank)


def _between(values: NDArray[W], begins: IntArray, ends: IntArray) -> NDArray[W]:
    """(m,) the sum of ``values`` from one place up to another."""
    sums = np.zeros(values.size + 1, dtype=values.dtype)
    np.cumsum(values, out=sums[1:])
    return np.asarray(sums[ends] - sums[begins])


def _lower_in_block(rank: NDArray[np.int32], weight: NDArray[W], sign: int = 1) -> NDArray[W]:
    """(n,) the weight of those earlier in the same block with a lower rank, or a higher one."""
    size = 1 << ITEM_BY_ITEM_BITS
    r = np.ascontiguousarray(rank.reshape(-1, size).T) * np.int32(sign)
    w = np.ascontiguousarray(weight.reshape(-1, size).T)
    found = np.zeros_like(w)
    for i in range(1, size):
        for j in range(i):
            found[i] += w[j] * (r[j] < r[i])
    return np.asarray(found.T.ravel())


def _in_sequence(
    found: list[NDArray[W]], parted: NDArray[np.int32], rank: NDArray[np.integer]
) -> NDArray[W]:
    by_rank = np.empty(parted.size, dtype=found[0].dtype if found else np.float64)
    in_order = np.empty((len(found), rank.size), dtype=by_rank.dtype)
    for k, own in enumerate(found):
        by_rank[parted] = own
        in_order[k] = by_rank[rank]
    return in_order

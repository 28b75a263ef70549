"""Quantiles of a sample, copies included (methods.md, section 1: Data)."""

import numpy as np

from hourglass.core.arrays import BoolArray, FloatArray, IntArray
from hourglass.core.followup import FollowUp


def sample_quantiles(values: FloatArray, count: IntArray, shares: FloatArray) -> FloatArray:
    """(m,) by linear interpolation at position (N − 1) p, counted from 0, among the N sorted copies.

    Args:
        values: (n,) numbers, infinite ones included; interpolating up to one of those gives it.
        count: (n,) copies of each.
        shares: (m,) p, from 0 to 1.
    """
    order = np.argsort(values)
    ordered, beyond = values[order], np.cumsum(count[order])
    position = (beyond[-1] - 1) * shares
    below = np.floor(position)
    part = position - below
    low = ordered[np.searchsorted(beyond, below, side="right")]
    high = ordered[np.searchsorted(beyond, np.minimum(below + 1, beyond[-1] - 1), side="right")]
    with np.errstate(invalid="ignore"):
        found = np.where((part == 0) | (low == high), low, low + part * (high - low))
    return np.asarray(found, dtype=np.float64)


def value_opens(data: FollowUp, values: FloatArray) -> BoolArray:
    """(n,) False for a row that follows one of the same subject with the same value.

    Such rows count once in a sample quantile, so that splitting a subject's row changes nothing.
    """
    opens = np.ones(data.exit.size, dtype=bool)
    if data.subject is not None:
        order = np.lexsort((data.exit, data.subject))
        subject, value = data.subject[order], values[order]
        opens[order[1:]] = (subject[1:] != subject[:-1]) | (value[1:] != value[:-1])
    return opens

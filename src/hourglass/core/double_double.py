"""Sums of doubles carried with twice their digits (Dekker 1971, Knuth 1969), within segments of an array."""

import numpy as np

from hourglass.core.arrays import FloatArray, IntArray


def two_sum(a: FloatArray, b: FloatArray) -> tuple[FloatArray, FloatArray]:
    """The rounded sum of a and b, and what rounding took from it, exactly."""
    s = a + b
    part = s - a
    return s, (a - (s - part)) + (b - part)


def two_product(a: FloatArray, b: FloatArray) -> tuple[FloatArray, FloatArray]:
    """The rounded product of a and b, and what rounding took from it, exactly (of moderate numbers)."""
    p = a * b
    (a_high, a_low), (b_high, b_low) = _halves(a), _halves(b)
    return p, ((a_high * b_high - p) + a_high * b_low + a_low * b_high) + a_low * b_low


def _halves(a: FloatArray) -> tuple[FloatArray, FloatArray]:
    c = 134217729.0 * a  # 2²⁷ + 1
    high = c - (c - a)
    return high, a - high


def added(
    a: tuple[FloatArray, FloatArray], b: tuple[FloatArray, FloatArray]
) -> tuple[FloatArray, FloatArray]:
    """The sum of two numbers, each a rounded part and the rest of it."""
    high, rest = two_sum(a[0], b[0])
    low, lost = two_sum(a[1], b[1])
    high, rest = _renewed(high, rest + low)
    return _renewed(high, rest + lost)


def _renewed(high: FloatArray, low: FloatArray) -> tuple[FloatArray, FloatArray]:
    s = high + low
    return s, low - (s - high)


def running_sums(
    values: FloatArray, nth: IntArray, rest: FloatArray | None = None
) -> tuple[FloatArray, FloatArray]:
    """Sums of each segment's values up to and with each, as a rounded part and the rest of it.

    Each pass adds to a sum the one that ends as many places before it as it has values; O(N log L) for
    segments of L values.

    Args:
        values: (N,) finite numbers, segment after segment; ``rest``: (N,) what was rounded off each.
        nth: (N,) the place of each in its segment, from 0.
    """
    high = values.astype(np.float64)
    low = np.zeros(values.size) if rest is None else rest.astype(np.float64)
    reach = 1
    while (further := np.flatnonzero(nth >= reach)).size:
        before = further - reach
        high[further], low[further] = added(
            (high[further], low[further]), (high[before], low[before])
        )
        reach *= 2
    return high, low

"""Members of ranges, against counting through each."""

import numpy as np

from hourglass.core.ranges import members


def test_ranges_are_gone_through_in_their_order_and_empty_ones_passed_over():
    low, high = np.array([2, 7, 4, 0, 5]), np.array([4, 7, 3, 3, 6])
    of, found = members(low, high)
    pairs = [(k, v) for k, (a, b) in enumerate(zip(low, high, strict=True)) for v in range(a, b)]
    assert list(zip(of, found, strict=True)) == pairs
    assert members(low[:0], high[:0])[1].size == 0

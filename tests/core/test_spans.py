import numpy as np
import pytest

from hourglass.core.regression.spans import spans


@pytest.mark.parametrize("size", [1, 2, 3, 8, 37, 700])
def test_spans_add_like_a_loop(size):
    rng = np.random.default_rng(size)
    first = rng.integers(0, size + 1, 60)
    beyond = np.minimum(first + rng.integers(0, size + 1, 60), size)
    cut = spans(first, beyond, size)
    values, step = rng.normal(size=60), rng.normal(size=size)
    rank, largest = rng.permutation(60), np.full(size, -1)
    spread = np.zeros(size)
    gathered = np.zeros(60)
    for k, (a, b) in enumerate(zip(first, beyond)):
        spread[a:b] += values[k]
        largest[a:b] = np.maximum(largest[a:b], rank[k])
        gathered[k] = step[a:b].sum()
    assert cut.spread(values) == pytest.approx(spread, abs=1e-12)
    assert cut.largest(rank).tolist() == largest.tolist()
    assert cut.gather(step) == pytest.approx(gathered, abs=1e-12)


def test_a_span_that_ends_before_it_begins_is_empty():
    cut = spans(np.array([3, 2]), np.array([1, 2]), 5)
    assert cut.spread(np.ones(2)).tolist() == [0] * 5
    assert cut.gather(np.ones(5)).tolist() == [0, 0]


def test_large_neighbours_leave_no_rounding_behind():
    # The first row, huge, is gone before the second is at risk.
    cut = spans(np.array([0, 2]), np.array([2, 4]), 4)
    assert cut.spread(np.array([1e300, 1e-300])).tolist() == [1e300, 1e300, 1e-300, 1e-300]
    assert cut.gather(np.array([1e300, 1e300, 1e-300, 1e-300]))[1] == 2e-300

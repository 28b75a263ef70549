import numpy as np
import pytest

from hourglass.core.regression.prefix_ranks import PrefixRanks
from hourglass.core.smooth import spline_smooth


def test_a_straight_line_is_its_own_smooth():
    x = np.linspace(0, 9, 40)
    found = spline_smooth(x, 3 - 2 * x, np.array([-1.0, 4.5, 20.0]), variance=1.0)
    assert found.y == pytest.approx([5.0, -6.0, -37.0])
    assert found.knots.size == 4


def test_the_band_is_that_of_least_squares():
    rng = np.random.default_rng(3)
    x, y = rng.uniform(0, 5, 80), rng.normal(size=80)
    at = np.array([0.5, 2.0, 4.0])
    found = spline_smooth(x, y, at, variance=0.7, confidence=0.9)
    k = found.knots

    def basis(v):
        def cube(u):
            return np.maximum(v - u, 0) ** 3

        terms = [np.ones_like(v), v]
        for j in range(2):
            tail = cube(k[2]) * (k[3] - k[j]) - cube(k[3]) * (k[2] - k[j])
            terms.append(cube(k[j]) - tail / (k[3] - k[2]))
        return np.column_stack(terms)

    b, w = basis(x), basis(at)
    assert found.y == pytest.approx(w @ np.linalg.lstsq(b, y)[0])
    half = 1.6448536269514722 * np.sqrt(0.7 * np.diag(w @ np.linalg.inv(b.T @ b) @ w.T))
    assert found.upper - found.y == pytest.approx(half)


def test_too_few_places_give_no_smooth_and_few_a_line():
    assert spline_smooth(np.array([1.0, 1, 2]), np.zeros(3), np.array([1.0]), 1.0) is None
    few = np.array([1.0, 1, 2, 3])
    found = spline_smooth(few, 2 * few, np.array([1.5]), 1.0)
    assert found.y == pytest.approx([3.0])


@pytest.mark.parametrize("n", [1, 7, 200])
def test_prefix_ranks_count_like_a_loop(n):
    rng = np.random.default_rng(n)
    rank, weight = rng.integers(0, max(n // 3, 1), n), rng.integers(0, 4, n).astype(float)
    first, below = rng.integers(0, n + 1, 50), rng.integers(0, n + 3, 50)
    asked = PrefixRanks(rank, weight)
    by_loop = [weight[:m][rank[:m] < r].sum() for m, r in zip(first, below)]
    assert asked.below(first, below).tolist() == by_loop
    assert asked.total(first).tolist() == [weight[:m].sum() for m in first]

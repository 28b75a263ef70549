import numpy as np
import pytest

from hourglass.core.earlier_lower import both_sides
from hourglass.core.smooth import spline_smoother


def test_a_straight_line_is_its_own_smooth():
    x = np.linspace(0, 9, 40)
    found = spline_smoother(x, np.array([-1.0, 4.5, 20.0])).smooth(3 - 2 * x, variance=1.0)
    assert found.y == pytest.approx([5.0, -6.0, -37.0])
    assert found.knots.size == 4


def test_the_band_is_that_of_least_squares():
    rng = np.random.default_rng(3)
    x, y = rng.uniform(0, 5, 80), rng.normal(size=80)
    at = np.array([0.5, 2.0, 4.0])
    found = spline_smoother(x, at).smooth(y, variance=0.7, confidence=0.9)
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
    assert spline_smoother(np.array([1.0, 1, 2]), np.array([1.0])) is None
    few = np.array([1.0, 1, 2, 3])
    found = spline_smoother(few, np.array([1.5])).smooth(2 * few, 1.0)
    assert found.y == pytest.approx([3.0])


@pytest.mark.parametrize("n", [1, 2, 3, 17, 64, 65, 200])
def test_both_sides_of_every_item_count_like_a_loop(n):
    rng = np.random.default_rng(n)
    rank, weight = rng.permutation(n), rng.integers(0, 4, (3, n)).astype(float)
    below, above = both_sides(rank, weight[:2], weight[2:])
    for k in range(n):
        lower = [weight[c, :k][rank[:k] < rank[k]].sum() for c in (0, 1)]
        higher = weight[2, k + 1 :][rank[k + 1 :] > rank[k]].sum()
        assert below[:, k].tolist() == lower
        assert above[0, k] == higher

"""LOWESS against its definition, and what counts, ties and outliers do to it."""

import mpmath as mp
import numpy as np
import pytest

from core.close import near
from core.literal import lowess as literal
from hourglass.core.lowess import lowess


def points(kind, n):
    random = np.random.default_rng(n)
    x = random.normal(size=n)
    x = {
        "plain": x,
        "few values": np.round(x),
        "skewed": np.exp(3 * x),
        "far from 0": 1e6 + 1e-3 * x,
        "two clusters": np.where(x > 0, 1e6 + 1e-4 * x, 1e-4 * x),
        "one value": np.ones(n),
    }[kind]
    y = np.sin(x) + random.normal(size=n) + 40 * (random.random(n) < 0.1)
    return x, y


@pytest.mark.parametrize(
    ("kind", "n"),
    [
        ("plain", 1),
        ("plain", 2),
        ("plain", 3),
        ("plain", 5),
        ("plain", 36),
        ("few values", 30),
        ("skewed", 40),
        ("far from 0", 30),
        ("two clusters", 30),
        ("one value", 9),
    ],
)
@pytest.mark.parametrize("span", [2 / 3, 0.3, 1.0])
def test_every_height_is_that_of_the_definition(kind, n, span):
    x, y = points(kind, n)
    found = lowess(x, y, span=span)
    wanted = literal.lowess(x, y, mp.mpf(span))
    assert found.x.tolist() == sorted(set(x.tolist()))
    for i in range(n):
        near(found.y[np.searchsorted(found.x, x[i])], wanted[i], rel=1e-9, small=1e-10)


def test_a_count_stands_for_as_many_points_and_their_order_for_nothing():
    x, y = points("few values", 40)
    count = np.random.default_rng(2).integers(0, 4, 40)
    each = np.repeat(np.arange(40), count)[::-1]
    listed, counted = lowess(x[each], y[each]), lowess(x, y, count)
    there = np.isin(counted.x, listed.x)
    np.testing.assert_allclose(counted.y[there], listed.y, rtol=1e-12)


@pytest.mark.parametrize("kind", ["plain", "skewed", "far from 0", "two clusters"])
@pytest.mark.parametrize("span", [0.7, 0.25])
def test_a_long_line_is_that_of_all_its_points_added_up(kind, span):
    x, y = points(kind, 4000)
    found = lowess(x, y, span=span, passes=0)
    for place in (0, 17, 1000, 2000, 3000, 3990, -1):
        at = found.x[place]
        u = (x - at) / np.sort(np.abs(x - at))[round(span * 4000) - 1]
        weight = (1 - np.minimum(np.abs(u), 1) ** 3) ** 3
        mean = weight @ u / weight.sum()
        slope = weight * (u - mean) @ y / (weight @ (u - mean) ** 2)
        height = weight @ y / weight.sum() - slope * mean
        assert found.y[place] == pytest.approx(height, rel=1e-9, abs=1e-11 * np.abs(y).max())


def test_an_outlier_does_not_bend_the_line():
    x = np.arange(30.0)
    y = 2 * x + np.where(np.arange(30) % 2, 0.1, -0.1)
    y[15] = 500.0
    assert abs(lowess(x, y).y[15] - 30) < 0.2
    assert lowess(x, y, passes=0).y[15] > 40


def test_a_span_that_is_no_share_is_refused():
    with pytest.raises(ValueError, match="a span is a share"):
        lowess(np.zeros(3), np.zeros(3), span=1.5)


def test_a_point_that_nothing_near_speaks_for_takes_the_far_ones():
    x = np.concatenate([np.arange(20.0), [60.0, 60.5]])
    y = np.concatenate([np.sin(np.arange(20.0)), [900.0, -900.0]])
    found, wanted = lowess(x, y), literal.lowess(x, y)
    for height, other in zip(found.y, wanted, strict=True):
        near(height, other, rel=1e-9)

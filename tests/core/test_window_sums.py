"""Sums over the nearest values against every value added up, with weights that vanish or are far apart."""

import numpy as np
import pytest

from hourglass.core.weighted_runs import RunTree
from hourglass.core.window_sums import window_sums, windows_of


def values(kind, n):
    random = np.random.default_rng(n)
    return np.unique(
        {
            "even": np.arange(n) / 7,
            "normal": random.normal(size=n),
            "skewed": np.exp(2 * random.normal(size=n)),
            "far from 0": 1e8 + random.normal(size=n),
        }[kind]
    )


def added_up(value, weight, heights, windows, k):
    part = slice(windows.first[k], windows.last[k] + 1)
    u = (value[part] - value[k]) / windows.reach[k]
    close = (1 - np.abs(u) ** 3) ** 3
    w, h = close * weight[part], close * heights[part]
    return [w.sum(), w @ u, w @ u**2, h.sum(), h @ u]


@pytest.mark.parametrize("kind", ["even", "normal", "skewed", "far from 0"])
@pytest.mark.parametrize("n", [2, 9, 700])
def test_sums_are_those_of_every_value_in_the_window(kind, n):
    random = np.random.default_rng(n + 1)
    value = values(kind, n)
    weight = random.random(value.size) * (random.random(value.size) < 0.8)
    heights = weight * random.normal(size=value.size)
    windows = windows_of(value, np.ones(value.size), 0.6)
    found = window_sums(value, weight, heights, windows)
    for k in random.integers(0, value.size, 25):
        if windows.reach[k] > 0:
            there = weight[windows.first[k] : windows.last[k] + 1].sum()
            wanted = added_up(value, weight, heights, windows, k)
            assert found[:, k] == pytest.approx(wanted, rel=0, abs=1e-12 * max(there, 1.0))


def test_a_window_is_made_of_runs_that_hold_each_of_its_values_once():
    random = np.random.default_rng(4)
    value = np.sort(random.normal(size=300))
    weight = random.random(300)
    tree = RunTree.of(value, weight, weight * value)
    first, beyond = np.array([0, 17, 120]), np.array([300, 90, 121])
    middle = np.array([150, 40, 120])
    total = np.zeros(3)
    for which, run in tree.within(first, beyond, middle):
        total[which] += run.weight.sum(axis=1)
    assert total == pytest.approx([weight[a:b].sum() for a, b in zip(first, beyond, strict=True)])

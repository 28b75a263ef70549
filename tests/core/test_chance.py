"""Chances behind findings, against counting every arrangement."""

from fractions import Fraction
from itertools import combinations, product
from math import comb

import numpy as np
import pytest

from hourglass.core.chance import longer_than, so_many_among


def test_the_share_of_longer_times_counts_all_pairs_and_its_chance_all_arrangements():
    rng = np.random.default_rng(4)
    a, b = rng.integers(3, 12, 8).astype(float), rng.integers(0, 9, 9).astype(float)
    share, p = longer_than(a, b)
    points = [1.0 if x > y else 0.5 if x == y else 0.0 for x, y in product(a, b)]
    assert share == pytest.approx(np.mean(points))
    together = np.concatenate([a, b])
    by_chance = []
    for chosen in combinations(range(17), 8):
        inside = np.zeros(17, dtype=bool)
        inside[list(chosen)] = True
        x, y = together[inside], together[~inside]
        by_chance.append(((x[:, None] > y).mean() + (x[:, None] == y).mean() / 2) >= share - 1e-12)
    assert p == pytest.approx(np.mean(by_chance), abs=0.005)


def test_equal_values_speak_for_nothing():
    assert longer_than(np.ones(5), np.ones(6)) == (0.5, 1.0)


def test_so_many_among_the_chosen_counts_every_choice():
    hits = [
        len(set(marked) & set(range(4))) >= 3 for marked in combinations(range(10), 5)
    ]  # the chosen are the first four
    assert so_many_among(3, 5, 4, 10) == pytest.approx(np.mean(hits))


@pytest.mark.parametrize(
    ("hits", "marked", "chosen", "size"),
    [
        (0, 5, 4, 10),
        (5, 5, 4, 10),
        (6, 8, 7, 10),
        (5, 8, 7, 10),
        (40, 300, 90, 2_000),
        (9, 9, 999, 5_000),
    ],
)
def test_the_chance_of_so_many_is_that_of_exact_fractions(hits, marked, chosen, size):
    ways = sum(comb(marked, k) * comb(size - marked, chosen - k) for k in range(hits, chosen + 1))
    exact = float(Fraction(ways, comb(size, chosen)))
    assert so_many_among(hits, marked, chosen, size) == pytest.approx(exact, rel=1e-12, abs=0)

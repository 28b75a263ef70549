"""Bins of a histogram: no gap that is not in the data, whatever grid they lie on."""

import numpy as np
import pytest

from hourglass.analysis.shared.formatting import count
from hourglass.cohort.bins import bin_edges
from hourglass.cohort.words import share_of_rows


@pytest.mark.parametrize("most", [24, 40])
@pytest.mark.parametrize("step", [1, 5, 0.1, 0.25, 1000])
@pytest.mark.parametrize("places", [2, 23, 30, 41, 97, 1000])
def test_every_bin_of_an_even_grid_is_filled_and_alike(most, step, places):
    values = np.round(7 * step + step * np.arange(places), 6)
    edges = bin_edges(values, most, decimals=2)
    counts, _ = np.histogram(values, edges)
    assert counts.sum() == places
    assert len(counts) <= most
    assert (counts > 0).all()
    assert set(counts[:-1].tolist()) <= {counts[0]}, "each bin holds as many places of the grid"
    assert np.abs(values[:, None] - edges).min() > 0.2 * step, "no value lies on an edge"


def test_a_gap_in_the_data_is_shown_and_values_on_no_grid_have_equal_bins():
    counts, _ = np.histogram([1, 2, 3, 20, 21], bin_edges(np.array([1.0, 2, 3, 20, 21]), 40))
    assert (counts == 0).sum() == 16
    values = np.random.default_rng(1).normal(size=500)
    edges = bin_edges(values, 24, decimals=2)
    assert edges[[0, -1]].tolist() == [values.min(), values.max()]
    assert bin_edges(np.array([3.0, 3.0]), 24) is None
    assert bin_edges(np.array([-1e308, 1e308]), 24) is None


def test_one_of_many_is_named_in_the_singular():
    words = ["biopsies", "lenses", "cases", "strata", "series", "competing events", "Patienten"]
    assert [count(1, w) for w in words] == [
        "1 biopsy", "1 lens", "1 case", "1 stratum", "1 series", "1 competing event", "1 Patienten",
    ]  # fmt: skip
    assert count(2, "biopsies") == "2 biopsies"


def test_all_but_one_row_is_not_all_of_them():
    assert [share_of_rows(s) for s in (1.0, 999 / 1000, 0.5, 1 / 1000, 0.0)] == [
        "100%", "over 99%", "50%", "under 1%", "0%",
    ]  # fmt: skip

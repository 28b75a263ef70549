"""Intervals cover and tests err at their levels, on simulated data with known truth."""

import numpy as np
import pytest

from hourglass.core.comparison.log_rank import log_rank
from hourglass.core.curves.quantiles import quantile
from hourglass.core.curves.survival import survival_curve
from hourglass.core.followup import follow_up
from hourglass.core.regression.fit import fit
from hourglass.core.regression.proportionality import proportionality_test
from hourglass.core.risk_table import risk_table

STUDIES = 600


def studies(n, seed, ratio=1.0, late=False):
    """Exponential times at rate 0.1 (times ``ratio`` in group 1), censored at random."""
    rng = np.random.default_rng(seed)
    for _ in range(STUDIES):
        group = rng.integers(0, 2, n)
        t = rng.exponential(10 / np.where(group == 1, ratio, 1.0))
        c = rng.uniform(2, 30, n)
        entry = np.full(n, -np.inf)
        if late:
            entry = np.where(rng.random(n) < 0.5, rng.uniform(0, 4, n), -np.inf)
        seen = np.minimum(t, c) > np.where(np.isfinite(entry), entry, 0)
        yield group[seen], follow_up(np.minimum(t, c)[seen], (t <= c)[seen], entry[seen])


def near(share, wanted):
    """Within three standard errors of the wanted share."""
    return abs(share - wanted) < 3 * np.sqrt(wanted * (1 - wanted) / STUDIES)


@pytest.mark.parametrize("late", [False, True])
def test_pointwise_intervals_cover_the_truth(late):
    hits = []
    for _, data in studies(120, 1, late=late):
        at = survival_curve(risk_table(data)).at(8.0)
        hits.append(at.lower <= np.exp(-0.8) <= at.upper)
    assert near(np.mean(hits), 0.95)


def test_median_intervals_cover_the_truth():
    hits = []
    for _, data in studies(120, 2):
        found = quantile(survival_curve(risk_table(data)), 0.5)
        upper = np.inf if found.upper is None else found.upper
        hits.append(found.lower <= 10 * np.log(2) <= upper)
    assert abs(np.mean(hits) - 0.95) < 0.03


def test_the_log_rank_errs_as_often_as_it_states():
    p = [log_rank(data, group, 2).test.p for group, data in studies(100, 3)]
    assert near(np.mean(np.array(p) < 0.05), 0.05)
    assert np.mean(p) == pytest.approx(0.5, abs=0.04)


@pytest.mark.parametrize("late", [False, True])
def test_ratio_intervals_cover_the_truth_and_the_check_errs_at_its_level(late):
    hits, tests = [], []
    for group, data in studies(150, 4, ratio=2.0, late=late):
        x = group[:, None].astype(float)
        found = fit(data, x)
        low, high = found.interval(0.9)
        hits.append(low[0] <= np.log(2) <= high[0])
        tests.append(proportionality_test(data, x, found).together.p)
    assert near(np.mean(hits), 0.9)
    assert near(np.mean(np.array(tests) < 0.05), 0.05)

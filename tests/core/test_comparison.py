import numpy as np
import pytest
from scipy.stats import chi2

from core import literal
from hourglass.core.comparison.log_rank import log_rank
from hourglass.core.comparison.weights import WEIGHTS
from hourglass.core.curves.difference import curve_difference
from hourglass.core.curves.survival import survival_curve
from hourglass.core.followup import follow_up
from hourglass.core.risk_table import risk_table


@pytest.mark.parametrize("weight", WEIGHTS, ids=lambda weight: weight.key)
@pytest.mark.parametrize("groups", [2, 3])
def test_log_rank_equals_the_definition(sample, groups, weight):
    group = sample.group % groups
    w = literal.WEIGHTS[weight.key]
    u, v, expected = literal.log_rank(sample.literal, group, groups, w)
    found = log_rank(sample.data, group, groups, weight)
    statistic = u[1:] @ np.linalg.solve(v[1:, 1:], u[1:])
    assert found.expected == pytest.approx(expected, rel=1e-9)
    assert found.excess == pytest.approx(u, rel=1e-9, abs=1e-9)
    assert found.variance == pytest.approx(v, rel=1e-9)
    assert found.test.statistic == pytest.approx(statistic, rel=1e-9)
    assert found.test.df == groups - 1
    assert found.test.p == pytest.approx(chi2.sf(statistic, groups - 1), rel=1e-9)
    assert found.observed.sum() == pytest.approx(found.expected.sum(), rel=1e-12)


@pytest.mark.parametrize("weight", WEIGHTS, ids=lambda weight: weight.key)
def test_evidence_ends_at_the_sum_and_its_variance(sample, weight):
    found = log_rank(sample.data, sample.group, 3, weight)
    course, limit = found.evidence(1, confidence=0.95)
    assert course[-1] == pytest.approx(found.excess[1], rel=1e-9)
    assert limit[-1] == pytest.approx(1.959963984540054 * found.variance[1, 1] ** 0.5, rel=1e-9)


def test_worked_by_hand():
    # a: 1 event at 1, censored 3; b: events at 2 and 4.
    found = log_rank(follow_up([1, 3, 2, 4], [1, 0, 1, 1]), np.array([0, 0, 1, 1]), 2)
    # at 1: n 4, a has 2, E 1/2, V 1/4; at 2: n 3, a has 1, E 1/3, V 2/9; at 4: a has none.
    assert found.expected[0] == pytest.approx(5 / 6)
    assert found.variance[0, 0] == pytest.approx(1 / 4 + 2 / 9)
    assert found.test.statistic == pytest.approx((1 / 6) ** 2 / (17 / 36))


def test_groups_never_at_risk_together_cannot_be_compared():
    data = follow_up([1, 2, 11, 12], [1, 1, 1, 1], entry=[-np.inf, -np.inf, 10, 10])
    found = log_rank(data, np.array([0, 0, 1, 1]), 2)
    assert (found.test.statistic, found.test.p, found.test.df) == (None, None, 0)
    assert "at risk together" in found.test.blank


def test_separate_components_lose_a_degree_of_freedom_each():
    t = [1, 2, 3, 11, 12, 13]
    entry = [-np.inf, -np.inf, -np.inf, 10, 10, 10]
    found = log_rank(follow_up(t, [1] * 6, entry), np.array([0, 1, 0, 2, 3, 2]), 4)
    assert found.test.df == 2
    halves = [log_rank(follow_up([1, 2, 3], [1] * 3), np.array([0, 1, 0]), 2).test.statistic] * 2
    assert found.test.statistic == pytest.approx(sum(halves))


def test_an_empty_group_is_no_degree_of_freedom():
    found = log_rank(follow_up([1, 2, 3], [1, 1, 0]), np.array([0, 1, 1]), 3)
    assert found.test.df == 1
    assert found.observed.tolist() == [1, 1, 0]


def test_difference_band_covers_both_curves_exactly_when_the_interval_contains_zero(sample):
    a, b = (
        survival_curve(risk_table(sample.data.only(sample.group == g)), confidence=0.6)
        for g in (0, 1)
    )
    found = curve_difference(a, b)
    seen = set()
    for k, t in enumerate(found.time):
        at_a, at_b = a.at(t), b.at(t)
        if at_a.survival == 0 or at_b.survival == 0:
            assert np.isnan(found.band_low[k])
            continue
        low, high = sorted([at_a.survival, at_b.survival])
        half = 0.8416212335729143 * np.sqrt(
            at_a.survival**2 * at_a.sigma2 + at_b.survival**2 * at_b.sigma2
        )
        assert found.upper[k] - found.lower[k] == pytest.approx(2 * half, rel=1e-9)
        covers = found.band_low[k] <= low and high <= found.band_high[k]
        assert covers == (found.lower[k] <= 0 <= found.upper[k])
        seen.add(covers)
    assert seen == {True, False}

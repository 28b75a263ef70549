"""Columns of terms, rows parted in time, and what is shown of several columns together."""

from dataclasses import replace

import mpmath as mp
import numpy as np
import pytest

from core.close import near
from core.conftest import Sample
from core.literal import regression as literal
from core.literal.data import sample_quantile
from hourglass.core.errors import NotEstimableError
from hourglass.core.followup import follow_up
from hourglass.core.regression.fit import fit
from hourglass.core.regression.subgroups import subgroups
from hourglass.core.regression.terms import (
    cubic_columns,
    level_columns,
    powers,
    products,
    sample_knots,
    trend_column,
)

FIT = 1e-9


@pytest.mark.parametrize("knots", [3, 4, 5])
def test_restricted_cubic_terms_equal_the_definition_and_are_linear_outside(knots):
    rng = np.random.default_rng(knots)
    x, w = rng.normal(50, 10, 40), rng.integers(1, 4, 40)
    shares = {3: (10, 50, 90), 4: (5, 35, 65, 95), 5: (5, 27.5, 50, 72.5, 95)}[knots]
    at = sample_knots(x, w, knots)
    for found, share in zip(at, shares):
        near(
            found, mp.mpf(sample_quantile(np.repeat(x, w).tolist(), mp.mpf(share) / 100)), rel=1e-13
        )
    a, b = mp.mpf(at[0]), mp.mpf(at[-1])

    def plus(v):
        return max(v, mp.mpf(0)) ** 3

    for row, value in zip(cubic_columns(x, at), x):
        assert row[0] == value
        for found, k in zip(row[1:], at[1:-1]):
            share = (b - k) / (b - a)
            whole = plus(value - k) - share * plus(value - a) - (1 - share) * plus(value - b)
            near(found, whole / (b - a) ** 2, rel=1e-9, small=mp.mpf("1e-9"))
    outside = cubic_columns(np.array([at[0] - 9, at[0] - 6, at[0] - 3]), at)
    assert (outside[:, 1:] == 0).all()
    beyond = cubic_columns(at[-1] + np.array([1.0, 2, 3]), at)
    assert np.diff(beyond, 2, axis=0) == pytest.approx(0, abs=1e-8)
    with pytest.raises(NotEstimableError, match="equal"):
        cubic_columns(x, np.array([1.0, 2, 2, 3]))


def test_columns_of_levels_scores_powers_and_products():
    code = np.array([0, 2, 1, 2])
    assert level_columns(code, 3, 1).tolist() == [[1, 0], [0, 1], [0, 0], [0, 1]]
    assert trend_column(code, np.array([0.0, 1, 5])).ravel().tolist() == [0, 5, 1, 5]
    assert powers(np.array([2.0, -1]), 3).tolist() == [[2, 4, 8], [-1, 1, -1]]
    assert products(np.array([[1.0, 2]]), np.array([[3.0, 5]])).tolist() == [[3, 5, 6, 10]]


def test_variance_inflation_of_a_term_does_not_depend_on_its_reference():
    rng = np.random.default_rng(3)
    n = 300
    code, z = rng.integers(0, 3, n), rng.normal(size=n)
    other = z + 0.7 * (code == 1) + rng.normal(size=n)
    data = follow_up(rng.exponential(1, n), rng.random(n) < 0.8)
    found = []
    for reference in (0, 2):
        x = np.column_stack([level_columns(code, 3, reference), z * 1e6, other])
        fitted = fit(data, x)
        found.append(fitted.variance_inflation(np.array([0, 1])))
        info = np.linalg.inv(fitted.covariance[2:, 2:])
        one = fitted.variance_inflation(np.array([3]))
        whole = np.linalg.inv(fitted.covariance / np.outer(*[fitted.standard_error] * 2))
        assert one == pytest.approx(whole[3, 3], rel=1e-9)
        assert one > 1
        assert info.shape == (2, 2)
    assert found[0] == pytest.approx(found[1], rel=1e-9)
    alone = fit(data, z[:, None])
    assert alone.variance_inflation(np.array([0])) == pytest.approx(1)
    away = fit(follow_up([1, 2, 3], [1, 0, 0]), np.array([[1.0], [0], [0]]))
    assert away.variance_inflation(np.array([0])) is None
    with pytest.raises(NotEstimableError, match="same rows"):
        alone.against(away)
    assert alone.against(alone).blank


def test_an_effect_within_levels_is_that_of_products_in_place_of_the_column():
    sample = Sample(8, n=40, counts=True)
    x, code = sample.x[:, :2], np.arange(40) % 3
    found = subgroups(sample.data, x, [0], code, 3, stratum=sample.stratum)
    lines = sample.literal_strata
    levels = [(code == k).astype(float) for k in range(3)]
    beside = [x[:, 1], levels[1], levels[2]]
    divided = np.column_stack([*beside, *(x[:, 0] * one for one in levels)])
    undivided = np.column_stack([*beside, x[:, 0]])
    assert found.place.tolist() == [[3], [4], [5]]
    beta = literal.newton(lines, divided, found.divided.beta)
    for k in range(6):
        near(found.divided.beta[k], beta[k], rel=FIT)
    under = literal.newton(
        lines, undivided, fit(sample.data, undivided, stratum=sample.stratum).beta
    )
    fall = (
        literal.partial_likelihood(lines, divided, beta)[0]
        - literal.partial_likelihood(lines, undivided, under)[0]
    )
    near(found.test.statistic, 2 * fall, rel=1e-8)
    assert found.test.df == 2
    assert [t.rows for t in found.levels] == [int(sample.w[code == k].sum()) for k in range(3)]
    assert [t.events for t in found.levels] == [
        int(sample.w[(code == k) & (sample.s == 1)].sum()) for k in range(3)
    ]


def test_a_level_in_which_the_column_is_aliased_has_no_effect_of_its_own():
    t, s = np.arange(1, 13), np.ones(12)
    x = np.array([[0.0], [1], [0], [1], [1], [0], [1], [0], [0], [0], [0], [0]])
    found = subgroups(follow_up(t, s), x, [0], np.repeat([0, 1], [8, 4]), 3)
    statuses = [found.divided.status[k] for k in found.place.ravel()]
    assert statuses[0] == "finite"
    assert statuses[1:] == ["aliased", "aliased"]
    assert found.levels[2].rows == 0
    assert found.test.blank


def test_a_level_without_events_has_no_ratio_and_no_degree_of_freedom():
    sample = Sample(4, n=60)
    code = np.arange(60) % 3
    s = np.where(code == 2, 0, sample.s)
    found = subgroups(follow_up(sample.t, s), sample.x[:, :1], [0], code, 3)
    assert [found.divided.status[k] for k in found.place.ravel()] == [
        "finite",
        "finite",
        "undetermined",
    ]
    two = code < 2
    kept = subgroups(follow_up(sample.t[two], s[two]), sample.x[two, :1], [0], code[two], 2)
    assert found.test.df == kept.test.df == 1
    only_one = subgroups(
        follow_up(sample.t, np.where(code == 0, sample.s, 0)), sample.x[:, :1], [0], code, 3
    )
    assert only_one.test.p is None
    assert "fewer than two levels" in only_one.test.blank


@pytest.mark.parametrize("cause", [1, 2])
def test_each_cause_is_fitted_with_the_others_as_censorings(cause):
    sample = Sample(9, n=40, late=True)
    found = fit(sample.data.of_cause(cause), sample.x[:, :2])
    lines = [replace(r, s=int(r.s == cause)) for r in sample.literal]
    beta = literal.newton(lines, sample.x[:, :2], found.beta)
    for k in range(2):
        near(found.beta[k], beta[k], rel=FIT)

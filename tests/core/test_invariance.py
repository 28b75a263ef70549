"""What must not matter does not, and what theory ties together is tied."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.stats import rankdata

from core.literal import regression as literal
from core.literal.data import event_times
from examples import examples
from hourglass.core.comparison.log_rank import log_rank
from hourglass.core.curves.quantiles import quantile
from hourglass.core.curves.survival import survival_curve
from hourglass.core.errors import NotEstimableError
from hourglass.core.followup import follow_up
from hourglass.core.regression.concordance import concordance
from hourglass.core.regression.fit import fit
from hourglass.core.regression.proportionality import event_residuals, proportionality_test
from hourglass.core.regression.score_terms import score_terms
from hourglass.core.regression.time_functions import TimeItself
from hourglass.core.risk_table import at_risk_over_time, risk_table


def split_rows(sample, at):
    """Every row cut in two at the given times, as (entry, exit]; the first part is censored."""
    cut = np.minimum(at, sample.t)
    twice = cut < sample.t
    twice &= cut > np.maximum(sample.e, 0)
    t = np.concatenate([np.where(twice, cut, sample.t), sample.t[twice]])
    s = np.concatenate([np.where(twice, 0, sample.s), sample.s[twice]])
    e = np.concatenate([sample.e, cut[twice]])
    rows = np.concatenate([np.arange(sample.t.size), np.flatnonzero(twice)])
    return follow_up(t, s, e, sample.w[rows]), rows


def test_cutting_follow_up_in_two_changes_nothing(sample):
    at = np.random.default_rng(0).uniform(0, 12, sample.t.size)
    cut, rows = split_rows(sample, at)
    assert rows.size > sample.t.size
    whole_curve, cut_curve = (survival_curve(risk_table(d)) for d in (sample.data, cut))
    assert cut_curve.survival == pytest.approx(whole_curve.survival, rel=1e-12)
    whole_test, cut_test = (
        log_rank(d, g, 3).test.statistic
        for d, g in ((sample.data, sample.group), (cut, sample.group[rows]))
    )
    assert cut_test == pytest.approx(whole_test, rel=1e-9)
    x = sample.x[rows]
    one, two = fit(sample.data, sample.x), fit(cut, x)
    assert two.beta == pytest.approx(one.beta, rel=1e-9)
    assert two.covariance == pytest.approx(one.covariance, rel=1e-8)
    tests = [
        proportionality_test(d, z, f) for d, z, f in ((sample.data, sample.x, one), (cut, x, two))
    ]
    assert tests[1].together.statistic == pytest.approx(tests[0].together.statistic, rel=1e-8)
    residuals = [
        event_residuals(d, z, f) for d, z, f in ((sample.data, sample.x, one), (cut, x, two))
    ]
    assert np.sort(residuals[1].residual[:, 1]) == pytest.approx(
        np.sort(residuals[0].residual[:, 1]), rel=1e-7, abs=1e-9
    )


def test_the_check_is_the_score_test_after_splitting_at_every_event_time(sample):
    """Rows are split at all event times and the columns x·g(t) put beside x, by definition."""
    found = fit(sample.data, sample.x)
    tested = proportionality_test(sample.data, sample.x, found, TimeItself())
    times = event_times(sample.literal)
    lines, columns = [], []
    for row, x in zip(sample.literal, sample.x, strict=True):
        start = row.e
        for stop in [*[t for t in times if row.e < t < row.t], row.t]:
            lines.append(replace(row, e=start, t=stop, s=row.s if stop == row.t else 0))
            columns.append([*x, *(x * stop)])
            start = stop
    columns = np.array(columns)
    columns -= columns.mean(axis=0)
    _, score, info, _ = literal.partial_likelihood(
        lines, columns, np.concatenate([found.beta, np.zeros(3)])
    )
    statistic = float(score @ literal.solve(info, score))
    assert tested.together.statistic == pytest.approx(statistic, rel=1e-6)


def test_without_ties_the_score_test_of_two_groups_is_the_log_rank(sample):
    n = sample.t.size
    data = follow_up(rankdata(sample.t, method="ordinal"), sample.s)
    group = sample.group % 2
    found = fit(data, group[:, None].astype(float))
    by_rank = log_rank(data, group, 2).test
    assert np.unique(data.exit).size == n
    assert found.score.statistic == pytest.approx(by_rank.statistic, rel=1e-9)


def test_the_order_of_rows_does_not_matter(sample):
    order = np.random.default_rng(1).permutation(sample.t.size)
    data = follow_up(sample.t[order], sample.s[order], sample.e[order], sample.w[order])
    assert at_risk_over_time(data).number.tolist() == at_risk_over_time(sample.data).number.tolist()
    one, two = fit(sample.data, sample.x), fit(data, sample.x[order])
    assert two.beta == pytest.approx(one.beta, rel=1e-10)
    assert two.linear == pytest.approx(one.linear[order], rel=1e-9, abs=1e-9)
    score = sample.x[:, 0]
    assert concordance(data, score[order]).value == pytest.approx(
        concordance(sample.data, score).value, rel=1e-12
    )


@pytest.mark.parametrize("factor", [1 / 30.4375, 24.0, 365.25])
def test_the_unit_of_time_changes_no_order_and_no_test(sample, factor):
    entry = np.where(np.isfinite(sample.e), sample.e * factor, -np.inf)
    data = follow_up(sample.t * factor, sample.s, entry, sample.w)
    one, two = (survival_curve(risk_table(d)) for d in (sample.data, data))
    assert two.survival.tolist() == one.survival.tolist()
    a, b = quantile(one, 0.5), quantile(two, 0.5)
    assert b.time == pytest.approx(a.time * factor, rel=1e-12)
    assert fit(data, sample.x).value == fit(sample.data, sample.x).value
    test = log_rank(data, sample.group, 3).test
    assert test.statistic == log_rank(sample.data, sample.group, 3).test.statistic


def test_relabelling_groups_changes_no_test(sample):
    other = np.array([2, 0, 1])[sample.group]
    one, two = log_rank(sample.data, sample.group, 3), log_rank(sample.data, other, 3)
    assert two.test.statistic == pytest.approx(one.test.statistic, rel=1e-9)
    assert two.expected[[2, 0, 1]] == pytest.approx(one.expected, rel=1e-12)


def test_changing_the_reference_turns_a_ratio_over(sample):
    up = sample.x[:, :1]
    one, two = fit(sample.data, up), fit(sample.data, 1 - up)
    assert two.beta[0] == pytest.approx(-one.beta[0], rel=1e-9)
    assert two.value == pytest.approx(one.value, rel=1e-12)


def test_an_offset_is_a_coefficient_fixed_at_one(sample):
    full = fit(sample.data, sample.x[:, :2])
    held = fit(sample.data, sample.x[:, :1], offset=sample.x[:, 1] * full.beta[1])
    assert held.beta[0] == pytest.approx(full.beta[0], rel=1e-8)
    assert held.value == pytest.approx(full.value, rel=1e-10)


def test_the_terms_of_a_coefficient_sum_to_its_score_and_information(sample):
    found = fit(sample.data, sample.x)
    _, _, info, steps = literal.partial_likelihood(sample.literal, sample.x, found.beta)
    for k in range(2):
        terms = score_terms(sample.data, sample.x, found, k)
        assert terms.score.sum() / float(info[k, k]) ** 0.5 == pytest.approx(0, abs=1e-9)
        assert terms.information.sum() == pytest.approx(float(info[k, k]), rel=1e-10)
        by_hand = [float(sum(f[1][k] for f in made) / len(made)) for _, _, made in steps]
        assert terms.mean == pytest.approx(by_hand, rel=1e-10)


@settings(max_examples=examples(120), deadline=None)
@given(
    st.lists(
        st.tuples(
            st.integers(0, 6),
            st.integers(0, 2),
            st.sampled_from([0.0, 1.0, 2.5]),
            st.integers(0, 1),
        ),
        min_size=1,
        max_size=14,
    )
)
def test_no_small_data_set_brings_the_core_down(rows):
    t, s, x, g = (np.array(c) for c in zip(*rows, strict=True))
    data = follow_up(t, s)
    curve = survival_curve(risk_table(data))
    assert ((curve.survival >= 0) & (curve.survival <= 1)).all()
    alive = curve.survival > 0
    assert (curve.lower[alive] <= curve.survival[alive]).all()
    assert (curve.survival[alive] <= curve.upper[alive]).all()
    test = log_rank(data, g, 2).test
    assert (test.statistic is None) == bool(test.blank)
    if test.p is not None:
        assert 0 <= test.p <= 1
    columns = np.column_stack([x, g]).astype(float)
    if not data.event().any():
        with pytest.raises(NotEstimableError):
            fit(data, columns)
        return
    found = fit(data, columns)
    for k, status in enumerate(found.status):
        assert np.isfinite(found.beta[k]) == (status == "finite")
        assert (found.standard_error[k] > 0) == (status == "finite")
    assert found.value >= found.value_at_zero - 1e-9
    order = concordance(data, found.linear)
    assert (order.value is None) == (order.blank is not None)
    if all(f == "finite" for f in found.status):
        checked = proportionality_test(data, columns, found)
        assert (checked.together.statistic is None) == bool(checked.together.blank)

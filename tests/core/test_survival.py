import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from core import literal
from hourglass.core.curves.quantiles import median_follow_up, quantile
from hourglass.core.curves.survival import survival_curve
from hourglass.core.errors import RefusedRowsError
from hourglass.core.followup import follow_up
from hourglass.core.risk_table import at_risk_over_time, number_at_risk, person_time, risk_table

CLOSE = {"rel": 1e-9, "abs": 1e-300}


def test_curve_variance_and_interval_equal_the_definition(sample):
    curve = survival_curve(risk_table(sample.data), confidence=0.9)
    assert curve.table.time.tolist() == literal.event_times(sample.literal)
    for j, t in enumerate(curve.table.time):
        s, sigma2 = literal.survival(sample.literal, t)
        lower, upper = literal.log_log(s, sigma2, 0.9)
        assert curve.survival[j] == pytest.approx(s, **CLOSE)
        if lower is None:
            assert np.isnan([curve.sigma2[j], curve.lower[j], curve.upper[j]]).all()
        else:
            assert curve.sigma2[j] == pytest.approx(sigma2, **CLOSE)
            assert (curve.lower[j], curve.upper[j]) == pytest.approx((lower, upper), **CLOSE)


@pytest.mark.parametrize("q", [0.25, 0.5, 0.75])
def test_quantiles_equal_the_definition(sample, q):
    found = quantile(survival_curve(risk_table(sample.data)), q)
    assert (found.time, found.lower, found.upper) == literal.quantile(sample.literal, q)


def test_number_followed_holds_between_times_too(sample):
    followed = at_risk_over_time(sample.data)
    for t in np.linspace(0.05, sample.data.end, 57):
        k = np.searchsorted(followed.time, t)
        assert followed.number[k] == literal.at_risk(sample.literal, t)
        assert number_at_risk(sample.data, np.array([t]))[0] == followed.number[k]


def test_follow_up_median_reverses_the_status(sample):
    found = median_follow_up(sample.data)
    assert found.time == literal.quantile(sample.literal, 0.5, status=0)[0]


def test_person_time_starts_at_entry(sample):
    by_hand = sum(r["w"] * (r["t"] - max(r["e"], 0)) for r in sample.literal)
    assert person_time(sample.data) == pytest.approx(by_hand, rel=1e-12)


def test_a_step_at_exactly_one_half_gives_its_midpoint():
    curve = survival_curve(risk_table(follow_up([1, 2, 3, 4], [1, 1, 1, 1])))
    found = quantile(curve, 0.5)
    assert (found.time, found.rule) == (2.5, "midpoint")
    flat = survival_curve(risk_table(follow_up([1, 2, 9, 9], [1, 1, 0, 0])))
    assert (quantile(flat, 0.5).time, quantile(flat, 0.5).rule) == (2.0, "first")


def test_the_curve_is_not_read_past_its_end_nor_given_an_interval_at_zero():
    curve = survival_curve(risk_table(follow_up([2, 2, 5], [0, 1, 1])))
    assert curve.at(5.0001) is None
    assert curve.at(-1) is None
    end = curve.at(5)
    assert end is not None
    assert (end.survival, end.lower, end.upper, end.events) == (0.0, None, None, 2)
    start = curve.at(1.9)
    assert start is not None
    assert (start.survival, start.lower, start.upper) == (1.0, 1.0, 1.0)


def test_a_time_zero_event_has_everyone_at_risk():
    table = risk_table(follow_up([0, 1, 2], [1, 0, 1]))
    assert table.at_risk.tolist() == [3, 1]


def test_near_ties_are_chained_to_the_smallest():
    data = follow_up([1.0, 1.0 + 5e-9, 1.0 + 9e-9, 10.0], [1, 1, 0, 0])
    assert data.exit.tolist() == [1.0, 1.0, 1.0, 10.0]
    assert data.merged == 2
    assert follow_up([1.0, 1.0 + 2e-8, 10.0], [1, 1, 0]).merged == 0


@pytest.mark.parametrize(
    ("arguments", "reason", "rows"),
    [
        (([1, -2, 3], [0, 1, 1]), "negative", [1]),
        (([1, np.inf, np.nan], [0, 1, 1]), "finite", [1, 2]),
        (([1, 2], [0, -1]), "status", [1]),
        (([1, 2], [0, 0.5]), "status", [1]),
        (([1, 2], [0, 1], [0, 2]), "entry", [1]),
        (([1, 2], [0, 1], None, [1, 1.5]), "count", [1]),
    ],
)
def test_unusable_rows_are_refused_by_name(arguments, reason, rows):
    with pytest.raises(RefusedRowsError) as refused:
        follow_up(*arguments)
    (only,) = refused.value.refusals
    assert reason in only.reason
    assert only.rows.tolist() == rows


@settings(max_examples=60, deadline=None)
@given(
    st.lists(
        st.tuples(st.integers(1, 12), st.integers(0, 2), st.integers(0, 3)), min_size=1, max_size=30
    ).filter(lambda rows: any(w for _, _, w in rows))
)
def test_counts_give_exactly_what_repeated_rows_give(rows):
    t, s, w = (np.array(c) for c in zip(*rows, strict=True))
    counted = survival_curve(risk_table(follow_up(t, s, count=w)))
    repeated = survival_curve(risk_table(follow_up(np.repeat(t, w), np.repeat(s, w))))
    assert counted.survival.tolist() == repeated.survival.tolist()
    np.testing.assert_array_equal(counted.lower, repeated.lower)
    assert (np.diff(counted.survival) <= 0).all()

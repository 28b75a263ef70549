import numpy as np
import pytest
from scipy.stats import chi2, norm, rankdata

from core.literal import regression as literal
from hourglass.core.errors import NotEstimableError
from hourglass.core.followup import follow_up
from hourglass.core.regression.concordance import concordance
from hourglass.core.regression.fit import fit
from hourglass.core.regression.likelihood import likelihood
from hourglass.core.regression.profile import finite_limit
from hourglass.core.regression.proportionality import event_residuals, proportionality_test
from hourglass.core.regression.risk_sets import risk_sets
from hourglass.core.regression.ties import TIE_METHODS
from hourglass.core.regression.time_functions import TIME_FUNCTIONS
from hourglass.core.variants import variant

SHARES = {"Efron": literal.efron_share, "Breslow": literal.breslow_share}


@pytest.mark.parametrize("ties", TIE_METHODS, ids=lambda ties: ties.key)
def test_fit_equals_the_definition(sample, ties):
    found = fit(sample.data, sample.x, ties=ties)
    share = SHARES[ties.key]
    beta = literal.newton(sample.literal, sample.x, share=share)
    value, score, info, _ = literal.partial_likelihood(sample.literal, sample.x, beta, share)
    zero, score_zero, info_zero, _ = literal.partial_likelihood(
        sample.literal, sample.x, np.zeros(3), share
    )
    covariance = np.linalg.inv(info)
    assert found.beta == pytest.approx(beta, rel=1e-9)
    assert found.covariance == pytest.approx(covariance, rel=1e-8)
    assert found.standard_error == pytest.approx(np.sqrt(np.diag(covariance)), rel=1e-9)
    assert found.p == pytest.approx(2 * norm.sf(np.abs(beta) / found.standard_error), rel=1e-8)
    assert (found.value_at_zero, found.value) == pytest.approx((zero, value), rel=1e-9)
    tests = {
        "likelihood_ratio": 2 * (value - zero),
        "wald": beta @ info @ beta,
        "score": score_zero @ np.linalg.solve(info_zero, score_zero),
    }
    for name, statistic in tests.items():
        test = getattr(found, name)
        assert test.statistic == pytest.approx(statistic, rel=1e-8), name
        assert test.p == pytest.approx(chi2.sf(statistic, 3), rel=1e-7)
    assert np.abs(score / np.sqrt(np.diag(info))).max() < 1e-8


def test_concordance_equals_all_pairs(sample):
    score = np.round(sample.x[:, 1] / 10)  # coarse, so that scores tie
    value, error = literal.concordance(sample.literal, score)
    found = concordance(sample.data, score)
    assert (found.value, found.standard_error) == pytest.approx((value, error), rel=1e-9)


def test_schoenfeld_residuals_equal_the_definition(sample):
    fitted = fit(sample.data, sample.x)
    found = event_residuals(sample.data, sample.x, fitted)
    wanted = literal.schoenfeld(sample.literal, sample.x, fitted.beta)
    assert found.time.tolist() == [t for t, _ in wanted]
    order = np.lexsort((found.residual[:, 1], found.time))
    by_hand = np.array([r for _, r in wanted])
    by_hand_order = np.lexsort((by_hand[:, 1], found.time))
    size = np.abs(by_hand).max(axis=0)
    assert np.abs(found.residual[order] - by_hand[by_hand_order]).max(axis=0) / size == (
        pytest.approx(0, abs=1e-9)
    )
    scaled = fitted.beta + len(by_hand) * by_hand @ fitted.covariance
    assert found.scaled[order] == pytest.approx(scaled[by_hand_order], rel=1e-7, abs=1e-6)


FUNCTIONS = {
    "one minus survival": lambda data, times: (
        lambda t: 1 - min([literal.survival(data, u)[0] for u in times if u < t], default=1.0)
    ),
    "time": lambda data, times: lambda t: t,
    "log time": lambda data, times: np.log,
    "rank": lambda data, times: lambda t: times.index(t) + 1,
}


@pytest.mark.parametrize("key", FUNCTIONS)
def test_proportionality_equals_the_definition(sample, key):
    fitted = fit(sample.data, sample.x)
    found = proportionality_test(sample.data, sample.x, fitted, variant(TIME_FUNCTIONS, key))
    g = FUNCTIONS[key](sample.literal, literal.event_times(sample.literal))
    u, v = literal.proportionality(sample.literal, sample.x, fitted.beta, g)
    assert found.together.statistic == pytest.approx(u @ np.linalg.solve(v, u), rel=1e-8)
    for k in range(3):
        assert found.column[k].statistic == pytest.approx(u[k] ** 2 / v[k, k], rel=1e-8)
    pair = np.array([0, 2])
    by_hand = u[pair] @ np.linalg.solve(v[np.ix_(pair, pair)], u[pair])
    assert found.of(pair).statistic == pytest.approx(by_hand, rel=1e-8)
    assert found.of(pair).df == 2


def test_counts_give_what_repeated_rows_give(sample):
    w = sample.w
    again = follow_up(np.repeat(sample.t, w), np.repeat(sample.s, w), np.repeat(sample.e, w))
    x = np.repeat(sample.x, w, axis=0)
    one, other = fit(sample.data, sample.x), fit(again, x)
    assert one.beta == pytest.approx(other.beta, rel=1e-9)
    assert one.value == pytest.approx(other.value, rel=1e-9)
    c_one, c_other = concordance(sample.data, one.linear), concordance(again, other.linear)
    assert c_one.value == pytest.approx(c_other.value, rel=1e-9)
    assert c_one.standard_error == pytest.approx(c_other.standard_error, rel=1e-9)
    p_one = proportionality_test(sample.data, sample.x, one).together.statistic
    assert p_one == pytest.approx(
        proportionality_test(again, x, other).together.statistic, rel=1e-8
    )


def test_scale_and_origin_of_a_column_do_not_matter(sample):
    plain = fit(sample.data, sample.x)
    moved = fit(sample.data, sample.x * [1, 1e9, 1e-7] + [0, 1e12, 1e-9])
    assert moved.value == pytest.approx(plain.value, rel=1e-9)
    assert moved.beta * [1, 1e9, 1e-7] == pytest.approx(plain.beta, rel=1e-9)


def test_aliased_columns_are_named_and_left_out(sample):
    x = np.column_stack([sample.x[:, :2], np.ones(len(sample.t)), sample.x[:, 0] * 3 + 7])
    found = fit(sample.data, x)
    assert [(a.column, a.reason) for a in found.aliased] == [
        (2, "takes one value in all rows"),
        (3, "is determined by the columns before it"),
    ]
    assert found.fate == ("finite", "finite", "aliased", "aliased")
    assert np.isnan(found.beta[2:]).all()
    assert found.beta[:2] == pytest.approx(fit(sample.data, sample.x[:, :2]).beta, rel=1e-9)


@pytest.mark.parametrize("scale", [1e-299, 1e299])
def test_a_column_whose_spread_has_no_square_is_left_out_and_says_so(sample, scale):
    found = fit(sample.data, sample.x[:, :1] * scale)
    assert found.fate == ("aliased",)
    assert "rescale it" in found.aliased[0].reason


def test_a_value_so_far_away_that_rounding_hides_the_others_is_said():
    data = follow_up([0, 0, 0, 0, 1, 1, 1, 1, 1], [0, 0, 0, 0, 0, 0, 1, 1, 1])
    x = np.array([[1.0], [2], [2], [0.001], [1], [1e9], [-4], [0.001], [1]])
    with pytest.raises(NotEstimableError, match="so far from all others"):
        fit(data, x)


def test_a_column_that_varies_only_where_nobody_is_compared_is_left_out():
    # The third row leaves before the first event.
    found = fit(follow_up([5, 6, 1, 7], [1, 1, 0, 0]), np.array([[0.0], [0], [1], [0]]))
    assert found.fate == ("aliased",)
    assert "at risk at any event time" in found.aliased[0].reason
    assert found.likelihood_ratio.blank


def test_a_coefficient_that_runs_away_is_named_with_the_finite_end_of_its_interval():
    rng = np.random.default_rng(5)
    n = 90
    x = np.column_stack([np.arange(n) % 2, rng.normal(size=n)]).astype(float)
    t = np.ceil(rng.exponential(10, n))
    s = np.where(x[:, 0] == 1, 0, rng.integers(0, 2, n))
    data, lines = follow_up(t, s), literal.rows(t, s)
    found = fit(data, x)
    assert found.fate == ("to -infinity", "finite")
    assert found.wald.statistic is None
    assert found.wald.blank
    # With the column at its limit only the rows without it are ever compared.
    only = [r for r, one in zip(lines, x[:, 0], strict=True) if one == 0]
    rest = x[x[:, 0] == 0, 1:]
    beta = literal.newton(only, rest)
    value, _, info, _ = literal.partial_likelihood(only, rest, beta)
    assert found.value == pytest.approx(value, rel=1e-9)
    assert found.beta[1] == pytest.approx(beta[0], rel=1e-6)
    assert found.standard_error[1] == pytest.approx(info[0, 0] ** -0.5, rel=1e-6)
    limit = finite_limit(data, x, found, 0)
    # The profile at the limit lies z²/2 under the supremum.
    best = max(
        literal.partial_likelihood(lines, x, np.array([limit, b]))[0]
        for b in np.linspace(beta[0] - 0.5, beta[0] + 0.5, 201)
    )
    assert value - best == pytest.approx(norm.ppf(0.975) ** 2 / 2, abs=1e-4)


def test_a_combination_that_runs_away_is_named_whole():
    # Rows with a + b > 0 never have the event: neither column alone decides it.
    rng = np.random.default_rng(9)
    a, b = rng.integers(0, 2, (2, 120)).astype(float)
    s = np.where(a + b > 0, 0, 1)
    found = fit(follow_up(rng.exponential(5, 120), s), np.column_stack([a, b]))
    assert found.fate == ("to -infinity", "to -infinity")


def test_a_reference_without_events_sends_the_others_up_and_bounds_them_below():
    rng = np.random.default_rng(11)
    group = np.arange(150) % 5
    s = np.where((group == 0) | (group == 2), 0, rng.integers(0, 2, 150))
    data = follow_up(np.ceil(rng.exponential(9, 150)), s)
    x = (group[:, None] == np.arange(1, 5)).astype(float)
    found = fit(data, x)
    assert {found.fate[k] for k in (0, 2, 3)} == {"to +infinity"}
    limits = [finite_limit(data, x, found, k) for k in (0, 2, 3)]
    assert all(limit is not None and 0 < limit < 6 for limit in limits)
    # Nothing tells the other eventless group from the reference: no estimate, not a precise one.
    assert found.fate[1] == "undetermined"
    assert np.isnan(found.beta[1])
    assert np.isnan(found.covariance[1]).all()


def test_late_entry_keeps_its_digits_beside_far_larger_scores():
    # The early risk sets hold scores e^±25 apart; a late row leaves no rounding behind it.
    x = np.array([[0.0], [-25], [-26], [25], [26], [-25.5], [0]])
    t, s = [9, 3, 4, 1, 2, 5, 6], [0, 1, 1, 1, 1, 1, 1]
    e = [8, -np.inf, 2.5, -np.inf, 0.5, 2.2, 5.5]
    sets = risk_sets(follow_up(t, s, e))
    lines = literal.rows(t, s, e)
    found = likelihood(sets, x, np.ones(1), np.zeros(7))
    value, score, info, _ = literal.partial_likelihood(lines, x, np.ones(1))
    assert found.value == pytest.approx(value, rel=1e-12)
    assert found.gradient == pytest.approx(score, rel=1e-9)
    assert found.information[0] == pytest.approx(info[0], rel=1e-9)


def test_a_strong_but_finite_effect_is_not_called_infinite():
    rng = np.random.default_rng(2)
    x = rng.normal(size=(400, 1)) * 3
    order = rankdata(rng.exponential(np.exp(-2.5 * x[:, 0])))
    data = follow_up(order, np.ones(400))
    found = fit(data, x)
    assert found.fate == ("finite",)
    assert found.beta[0] == pytest.approx(2.5, abs=0.4)


def test_nothing_to_fit_is_said_in_words():
    with pytest.raises(NotEstimableError, match="no event"):
        fit(follow_up([1, 2], [0, 0]), np.ones((2, 1)))


def test_a_single_event_time_has_no_course_over_time():
    data = follow_up([1, 1, 2, 2], [1, 1, 0, 0])
    x = np.array([[0.0], [1], [0], [1.5]])
    found = proportionality_test(data, x, fit(data, x))
    assert found.together.statistic is None
    assert "too few" in found.together.blank


def test_log_time_refuses_an_event_at_zero():
    data = follow_up([0, 1, 2, 3], [1, 1, 0, 1])
    x = np.array([[0.0], [1], [0], [1.5]])
    with pytest.raises(NotEstimableError, match="time 0"):
        proportionality_test(data, x, fit(data, x), variant(TIME_FUNCTIONS, "log time"))


def test_no_comparable_pair_is_said_in_words():
    found = concordance(follow_up([1, 1], [1, 1]), np.array([0.0, 1.0]))
    assert found.value is None
    assert found.blank

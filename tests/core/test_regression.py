from dataclasses import replace

import mpmath as mp
import numpy as np
import pytest
from scipy.stats import rankdata

from core.close import all_near, near
from core.literal import regression as literal
from core.literal.data import rows, z_of
from hourglass.core.errors import NotEstimableError, RefusedRowsError
from hourglass.core.followup import follow_up
from hourglass.core.regression.added import beside_the_model
from hourglass.core.regression.concordance import concordance
from hourglass.core.regression.effects import AlongTime, ByPeriod, over_time
from hourglass.core.regression.exact import exact_likelihood, refuse_too_much
from hourglass.core.regression.fit import fit
from hourglass.core.regression.likelihood import likelihood, seen_at_events
from hourglass.core.regression.newton_steps import newton_steps
from hourglass.core.regression.profile import finite_limit
from hourglass.core.regression.proportionality import event_residuals, proportionality_test
from hourglass.core.regression.risk_sets import risk_sets
from hourglass.core.regression.robust import robust_covariance
from hourglass.core.regression.ties import TIE_METHODS
from hourglass.core.regression.time_functions import TIME_FUNCTIONS
from hourglass.core.variants import variant

EXACT = 1e-9
KEYS = [ties.key for ties in TIE_METHODS if ties.key != "exact"]


def fits_as_defined(found, rows, x, ties, offset=None):
    """Coefficients, covariance, values and tests of a fit, against the transcription at its maximum."""
    p = x.shape[1]
    beta = literal.newton(rows, x, found.beta, ties, offset)
    value, _, info, _ = literal.partial_likelihood(rows, x, beta, ties, offset)
    at_zero = literal.partial_likelihood(rows, x, literal.digits(np.zeros(p)), ties, offset)
    covariance = literal.inverse(info)
    all_near(found.beta, list(beta), rel=EXACT)
    for k in range(p):
        all_near(found.covariance[k], list(covariance[k]), rel=1e-8)
        near(found.standard_error[k], mp.sqrt(covariance[k, k]), rel=EXACT)
    near(found.value_at_zero, at_zero[0])
    near(found.value, value)
    tests = {
        "likelihood_ratio": 2 * (value - at_zero[0]),
        "wald": beta @ info @ beta,
        "score": at_zero[1] @ literal.solve(at_zero[2], at_zero[1]),
    }
    for name, statistic in tests.items():
        test = getattr(found, name)
        near(test.statistic, statistic, rel=EXACT)
        near(test.p, mp.gammainc(mp.mpf(p) / 2, statistic / 2, mp.inf, regularized=True), rel=1e-8)
        assert test.df == p


@pytest.mark.parametrize("ties", KEYS)
def test_fit_equals_the_definition(sample, ties):
    found = fit(sample.data, sample.x, ties=variant(TIE_METHODS, ties))
    fits_as_defined(found, sample.literal, sample.x, ties)


def test_each_stratum_has_risk_sets_of_its_own(sample):
    offset = sample.x[:, 1] / 40
    found = fit(sample.data, sample.x[:, :2], offset=offset, stratum=sample.stratum)
    fits_as_defined(found, sample.literal_strata, sample.x[:, :2], "Efron", offset)


@pytest.mark.parametrize("seed", range(6))
def test_exact_ties_sum_over_every_set_of_tied_rows(seed):
    rng = np.random.default_rng(seed)
    n = 7 if seed == 2 else 14
    t, s = rng.integers(1, 5, n), (rng.random(n) < 0.7).astype(int)
    e = np.where(rng.random(n) < 0.3, t - 1.5, -np.inf) if seed % 2 else np.full(n, -np.inf)
    w, stratum = rng.integers(1, 3, n) if seed == 2 else np.ones(n, int), rng.integers(0, 2, n)
    x = np.column_stack([rng.normal(50, 3, n), rng.integers(0, 2, n)])
    strata = None if seed < 3 else stratum
    found = fit(follow_up(t, s, e, w), x, ties=variant(TIE_METHODS, "exact"), stratum=strata)
    lines = rows(t, s, e, w, stratum=strata)
    fits_as_defined(found, lines, x, "exact")


def test_exact_ties_end_a_step_that_is_too_long_for_numbers():
    """Two of three tied events are e^−800 of the third: the sum over pairs is no number any more."""
    t, s = [1, 1, 1, 2], [1, 1, 0, 0]
    data, x = follow_up(t, s), np.array([[0.0], [1], [0], [0]])
    sets = risk_sets(data, variant(TIE_METHODS, "exact"))
    z = sets.ordered_columns(x.T)
    seen = seen_at_events(sets, z)
    for beta in (0.0, 600.0, 800.0):
        found = exact_likelihood(sets, z, seen, np.array([beta]), np.zeros(4))
        value = literal.partial_likelihood(rows(t, s), x, [beta], "exact")[0]
        if beta < 700:
            near(found.value, value, rel=1e-12)
        assert found.value <= float(value) * (1 - 1e-12)
        assert not np.isnan(found.gradient).any()


def test_exact_ties_of_too_many_rows_are_refused_before_they_are_summed():
    rng = np.random.default_rng(1)
    t, x = np.repeat([1.0, 2.0], 2_000), rng.normal(size=(4_000, 5))
    happened = np.tile([1, 0], 2_000)
    with pytest.raises(NotEstimableError, match="choose Efron’s ties"):
        fit(follow_up(t, happened), x, ties=variant(TIE_METHODS, "exact"))  # 25 · 6e6
    strata = np.tile([0, 0, 1, 1], 1_000)
    halved = risk_sets(follow_up(t, happened), variant(TIE_METHODS, "exact"), strata)
    refuse_too_much(halved, 5)  # 25 · 3e6


def test_exact_ties_report_progress_within_an_iteration_and_can_be_stopped_there():
    rng = np.random.default_rng(2)
    t, x = np.repeat(np.arange(1.0, 5), 10), rng.normal(size=(40, 1))
    seen = []

    def on_iteration(done):
        seen.append(done)
        if done > 1.5:
            raise InterruptedError

    with pytest.raises(InterruptedError):
        fit(
            follow_up(t, np.tile([1, 0], 20)),
            x,
            on_iteration=on_iteration,
            ties=variant(TIE_METHODS, "exact"),
        )
    assert seen[:4] == [0, 0.25, 0.5, 0.75]
    assert seen[-1] == 1.75


def test_what_needs_an_event_or_a_column_states_that_there_is_none():
    data, x = follow_up([1, 2, 3], [1, 0, 1]), np.ones((3, 2))
    constant = fit(data, x)
    assert np.isnan(robust_covariance(data, x, constant)).all()
    with pytest.raises(NotEstimableError, match="every column was left out"):
        newton_steps(data, x, variant(TIE_METHODS, "Efron"))
    never = follow_up([1, 2, 3], [0, 0, 0])
    for effect in (ByPeriod((2.0,)), AlongTime(variant(TIME_FUNCTIONS, "log time"))):
        with pytest.raises(NotEstimableError, match="no event was observed"):
            over_time(never, [effect])


def test_the_search_takes_one_more_step_where_its_tolerance_is_met():
    rng = np.random.default_rng(1)
    x = rng.normal(size=(20_000, 1))
    data = follow_up(rng.exponential(np.exp(-1.5 * x[:, 0])), np.ones(20_000, dtype=np.int64))
    found = newton_steps(data, x, variant(TIE_METHODS, "Efron"))
    assert found.decrement[-2] > 1e-22, "the tolerance alone leaves a billionth of a standard error"
    assert found.decrement[-1] < 1e-24
    assert found.beta[-1, 0] == fit(data, x).beta[0]


def test_exact_ties_of_many_rows_keep_their_size():
    # A thousand rows, half with the event at once: C(1000, 500) sets, far beyond a float.
    t, s = np.ones(1000), np.repeat([1, 0], 500)
    x = np.zeros((1000, 1))
    x[::2] = 1
    found = fit(follow_up(t, s), x, ties=variant(TIE_METHODS, "exact"))
    near(found.value_at_zero, -mp.log(mp.binomial(1000, 500)))
    many = follow_up([1, 1], [1, 0], count=[2_000_000, 1])
    with pytest.raises(NotEstimableError, match="drawn one by one"):
        fit(many, np.array([[0.0], [1.0]]), ties=variant(TIE_METHODS, "exact"))


@pytest.mark.parametrize("ties", KEYS)
def test_ties_of_a_billion_cost_no_more_than_a_few(ties):
    w = [10**9, 3 * 10**8, 10**9, 5, 2 * 10**9, 7 * 10**8]
    t, s = [1, 1, 2, 2, 3, 3], [1, 1, 1, 0, 1, 0]
    x = np.array([[0.0], [1], [1], [0], [0], [1]])
    small = fit(
        follow_up(t, s, count=[1000, 300, 1000, 5, 2000, 700]), x, ties=variant(TIE_METHODS, ties)
    )
    found = fit(follow_up(t, s, count=w), x, ties=variant(TIE_METHODS, ties))
    assert found.beta[0] == pytest.approx(small.beta[0], abs=0.02)
    assert found.standard_error[0] == pytest.approx(small.standard_error[0] / 1000, rel=0.05)


@pytest.mark.parametrize("where", ["covariate", "offset"])
@pytest.mark.parametrize("value", [np.nan, np.inf, -np.inf])
def test_a_covariate_or_offset_that_is_no_number_is_refused_by_row(where, value):
    x, offset = np.arange(4.0)[:, None], np.zeros(4)
    (x[:, 0] if where == "covariate" else offset)[2] = value
    with pytest.raises(RefusedRowsError, match=where) as refused:
        fit(follow_up([1, 2, 3, 4], [1, 1, 0, 1]), x, offset=offset)
    assert refused.value.refusals[0].rows.tolist() == [2]


def test_a_column_far_from_zero_keeps_its_digits():
    rng = np.random.default_rng(4)
    steps = rng.integers(0, 64, 50) / 64.0
    data = follow_up(rng.exponential(1, 50), rng.random(50) < 0.7)
    plain = fit(data, steps[:, None])
    for shift in (1e6, 1e9, -1e9):
        moved = fit(data, (steps + shift)[:, None])
        assert moved.beta[0] == pytest.approx(plain.beta[0], rel=1e-12)
        residual = [event_residuals(data, x[:, None], f).residual for x, f in
                    ((steps, plain), (steps + shift, moved))]  # fmt: skip
        assert residual[1] == pytest.approx(residual[0], abs=1e-12)


def test_concordance_equals_all_pairs(sample):
    score = np.round(sample.x[:, 1] / 10)  # coarse, so that scores tie
    value, error = literal.concordance(sample.literal, score)
    found = concordance(sample.data, score)
    near(found.value, value)
    near(found.standard_error, error, rel=1e-10)


@pytest.mark.parametrize("n", range(3, 9))
def test_concordance_of_few_rows_of_whom_some_enter_late_equals_all_pairs(n):
    compared = 0
    for seed in range(100):
        rng = np.random.default_rng(seed)
        entry = np.where(rng.random(n) < 0.7, -np.inf, rng.integers(1, 4, n))
        time, status = np.maximum(entry, 0) + rng.integers(1, 4, n), rng.integers(0, 2, n)
        score = rng.integers(0, n, n).astype(float)
        found = concordance(follow_up(time, status, entry=entry), score)
        if found.value is None:
            continue
        compared += 1
        value, error = literal.concordance(rows(time, status, e=entry), score)
        near(found.value, value)
        near(found.standard_error, error, rel=1e-10)
    assert compared


@pytest.mark.parametrize("ties", KEYS)
def test_schoenfeld_residuals_equal_the_definition(sample, ties):
    fitted = fit(sample.data, sample.x, ties=variant(TIE_METHODS, ties))
    found = event_residuals(sample.data, sample.x, fitted)
    wanted = literal.schoenfeld(sample.literal, sample.x, literal.digits(fitted.beta), ties)
    each = np.repeat(np.arange(found.row.size), found.count)
    assert found.time[each].tolist() == [t for t, _ in wanted]
    by_hand = literal.floats([r for _, r in wanted])
    residual = found.residual[each]
    order, other = (np.lexsort((r[:, 1], found.time[each])) for r in (residual, by_hand))
    size = np.abs(by_hand).max(axis=0)
    assert np.abs((residual[order] - by_hand[other]) / size).max() < 1e-11
    scaled = fitted.beta + len(by_hand) * by_hand @ fitted.covariance
    assert found.scaled[each][order] == pytest.approx(scaled[other], rel=1e-9, abs=1e-9)


@pytest.mark.parametrize("key", literal.TIME_FUNCTIONS)
def test_proportionality_equals_the_definition(sample, key):
    strata = key in {"rank", "one minus survival"}
    rows_ = sample.literal_strata if strata else sample.literal
    fitted = fit(sample.data, sample.x, stratum=sample.stratum if strata else None)
    found = proportionality_test(sample.data, sample.x, fitted, variant(TIME_FUNCTIONS, key))
    g = literal.TIME_FUNCTIONS[key](rows_)
    u, v = literal.proportionality(rows_, sample.x, literal.digits(fitted.beta), g)
    near(found.together.statistic, u @ literal.solve(v, u), rel=EXACT)
    for k in range(3):
        near(found.column[k].statistic, u[k] ** 2 / v[k, k], rel=EXACT)
    pair = np.array([0, 2])
    near(
        found.of(pair).statistic, u[pair] @ literal.solve(v[np.ix_(pair, pair)], u[pair]), rel=EXACT
    )
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
    assert found.status == ("finite", "finite", "aliased", "aliased")
    assert np.isnan(found.beta[2:]).all()
    assert found.beta[:2] == pytest.approx(fit(sample.data, sample.x[:, :2]).beta, rel=1e-9)


@pytest.mark.parametrize("scale", [1e-299, 1e299])
def test_a_column_whose_spread_has_no_square_is_left_out_and_states_so(sample, scale):
    found = fit(sample.data, sample.x[:, :1] * scale)
    assert found.status == ("aliased",)
    assert "rescale it" in found.aliased[0].reason


def test_a_value_so_far_away_that_rounding_hides_the_others_is_stated():
    data = follow_up([0, 0, 0, 0, 1, 1, 1, 1, 1], [0, 0, 0, 0, 0, 0, 1, 1, 1])
    x = np.array([[1.0], [2], [2], [0.001], [1], [1e9], [-4], [0.001], [1]])
    with pytest.raises(NotEstimableError, match="so far from all others"):
        fit(data, x)


def test_a_column_that_varies_only_where_nobody_is_compared_is_left_out():
    # The third row leaves before the first event.
    found = fit(follow_up([5, 6, 1, 7], [1, 1, 0, 0]), np.array([[0.0], [0], [1], [0]]))
    assert found.status == ("aliased",)
    assert "at risk at any event time" in found.aliased[0].reason
    assert found.likelihood_ratio.blank


def test_a_coefficient_that_runs_away_is_named_with_the_finite_end_of_its_interval():
    rng = np.random.default_rng(5)
    n = 90
    x = np.column_stack([np.arange(n) % 2, rng.normal(size=n)]).astype(float)
    t = np.ceil(rng.exponential(10, n))
    s = np.where(x[:, 0] == 1, 0, rng.integers(0, 2, n))
    data, lines = follow_up(t, s), rows(t, s)
    found = fit(data, x)
    assert found.status == ("to -infinity", "finite")
    assert found.wald.statistic is None
    assert found.wald.blank
    # With the column at its limit only the rows without it are ever compared.
    only = [r for r, one in zip(lines, x[:, 0], strict=True) if one == 0]
    rest = x[x[:, 0] == 0, 1:]
    beta = literal.newton(only, rest, found.beta[1:])
    value, _, info, _ = literal.partial_likelihood(only, rest, beta)
    near(found.value, value)
    near(found.beta[1], beta[0], rel=EXACT)
    near(found.standard_error[1], 1 / mp.sqrt(info[0, 0]), rel=EXACT)
    # The profile at the limit lies z²/2 under the supremum.
    limit = finite_limit(data, x, found, 0)
    offset = limit * x[:, 0]
    under = literal.newton(lines, x[:, 1:], found.beta[1:], offset=offset)
    below = literal.partial_likelihood(lines, x[:, 1:], under, offset=offset)[0]
    near(value - below, z_of(0.95) ** 2 / 2, rel=EXACT)


def test_a_combination_that_runs_away_is_named_whole():
    # Rows with a + b > 0 never have the event: neither column alone decides it.
    rng = np.random.default_rng(9)
    a, b = rng.integers(0, 2, (2, 120)).astype(float)
    s = np.where(a + b > 0, 0, 1)
    found = fit(follow_up(rng.exponential(5, 120), s), np.column_stack([a, b]))
    assert found.status == ("to -infinity", "to -infinity")


def test_a_reference_without_events_sends_the_others_up_and_bounds_them_below():
    rng = np.random.default_rng(11)
    group = np.arange(150) % 5
    s = np.where((group == 0) | (group == 2), 0, rng.integers(0, 2, 150))
    data = follow_up(np.ceil(rng.exponential(9, 150)), s)
    x = (group[:, None] == np.arange(1, 5)).astype(float)
    found = fit(data, x)
    assert {found.status[k] for k in (0, 2, 3)} == {"to +infinity"}
    limits = [finite_limit(data, x, found, k) for k in (0, 2, 3)]
    assert all(limit is not None and 0 < limit < 6 for limit in limits)
    # Nothing distinguishes the other eventless group from the reference: no estimate, not a precise one.
    assert found.status[1] == "undetermined"
    assert np.isnan(found.beta[1])
    assert np.isnan(found.covariance[1]).all()


def test_late_entry_keeps_its_digits_beside_far_larger_scores():
    # The early risk sets hold scores e^±25 apart; a late row leaves no rounding behind it.
    x = np.array([[0.0], [-25], [-26], [25], [26], [-25.5], [0]])
    t, s = [9, 3, 4, 1, 2, 5, 6], [0, 1, 1, 1, 1, 1, 1]
    e = [8, -np.inf, 2.5, -np.inf, 0.5, 2.2, 5.5]
    sets = risk_sets(follow_up(t, s, e))
    z = sets.ordered_columns(x.T)
    found = likelihood(sets, z, seen_at_events(sets, z), np.ones(1), np.zeros(7))
    value, score, info, _ = literal.partial_likelihood(rows(t, s, e), x, literal.digits([1]))
    near(found.value, value)
    near(found.gradient[0], score[0], rel=1e-11)
    near(found.information[0, 0], info[0, 0], rel=1e-11)


def test_a_strong_but_finite_effect_is_not_called_infinite():
    rng = np.random.default_rng(2)
    x = rng.normal(size=(400, 1)) * 3
    order = rankdata(rng.exponential(np.exp(-2.5 * x[:, 0])))
    data = follow_up(order, np.ones(400))
    found = fit(data, x)
    assert found.status == ("finite",)
    assert found.beta[0] == pytest.approx(2.5, abs=0.4)


def test_nothing_to_fit_is_stated_in_words():
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


def test_no_comparable_pair_is_stated_in_words():
    found = concordance(follow_up([1, 1], [1, 1]), np.array([0.0, 1.0]))
    assert found.value is None
    assert found.blank


def test_a_search_for_an_end_meets_scores_far_below_the_root_of_the_smallest_number():
    """Two tied events are left of a risk set whose scores are e^−600 of the largest."""
    data = follow_up([0, 0, 1, 9, 9], [0, 0, 1, 1, 1])
    for offset in (0.0, 300.0, 600.0):
        sets = risk_sets(data)
        z = np.array([[-1.0, -1, -1, 1.5, 1.5], [0.1, 0.1, 2, 0.2, -0.4]])
        linear = np.array([0, 0, offset, 0, 0.0])
        found = likelihood(sets, z, seen_at_events(sets, z), np.zeros(2), linear)
        lines = rows([0, 0, 1, 9, 9], [0, 0, 1, 1, 1])
        value, score, info, _ = literal.partial_likelihood(lines, z.T, [0, 0], offset=linear)
        near(found.value, value, rel=1e-9)
        for k in range(2):
            near(found.gradient[k], score[k], rel=1e-9, small=1e-12)
            near(found.information[k, k], info[k, k], rel=1e-9, small=1e-12)


def test_equal_rows_have_equal_linear_predictors_wherever_they_stand():
    rng = np.random.default_rng(5)
    x = np.repeat(rng.integers(0, 3, (7, 5)).astype(float), 11, axis=0)
    order = rng.permutation(77)
    data = follow_up(rng.integers(1, 20, 77), rng.integers(0, 2, 77))
    found = fit(data, x[order])
    distinct = np.unique(x, axis=0).shape[0]
    assert np.unique(found.linear).size <= distinct


@pytest.mark.parametrize("ties", ["Efron", "Breslow"])
def test_a_column_that_is_not_in_the_model_is_tested_at_its_estimates(ties):
    rng = np.random.default_rng(8)
    n = 24
    t, s = rng.integers(1, 9, n).astype(float), rng.integers(0, 2, n)
    x = rng.normal(size=(n, 2))
    added = np.column_stack([x[:, 0] ** 2, rng.normal(size=n) * 1e6, x @ [2.0, -1.0]])
    method = variant(TIE_METHODS, ties)
    found = beside_the_model(follow_up(t, s), x, fit(follow_up(t, s), x, ties=method), added)
    only = rows(t, s)
    beta = literal.newton(only, x, fit(follow_up(t, s), x, ties=method).beta, ties)
    for k in range(2):
        both = np.column_stack([x, added[:, k]])
        at = np.append(beta, literal.digits([0.0]))
        _, score, info, _ = literal.partial_likelihood(only, both, at, ties)
        cross = info[:2, 2]
        left = info[2, 2] - cross @ literal.solve(info[:2, :2], cross)
        near(found[k].statistic, score[2] ** 2 / left, 1e-9)
    assert found[2].statistic is None, "a sum of the model's columns tells nothing new"


def test_a_joint_wald_test_of_errors_from_few_clusters_is_blank_with_a_reason():
    rng = np.random.default_rng(5)
    x = rng.normal(size=(60, 3))
    data = follow_up(rng.exponential(size=60), rng.integers(0, 2, 60))
    found = fit(data, x)
    two = replace(found, covariance=robust_covariance(data, x, found, np.arange(60) % 2))
    assert two.wald_of(np.arange(3)).blank == "the covariance of the coefficients has no inverse"
    alone = two.wald_of(np.array([1]))
    assert alone.statistic == pytest.approx(two.beta[1] ** 2 / two.covariance[1, 1], rel=1e-12)
    many = replace(found, covariance=robust_covariance(data, x, found, np.arange(60) % 20))
    wanted = many.beta @ np.linalg.inv(many.covariance) @ many.beta
    assert many.wald_of(np.arange(3)).statistic == pytest.approx(wanted, rel=1e-9)


def test_a_row_that_is_never_at_risk_with_an_event_changes_nothing_however_large_its_column():
    t, s = np.array([0.5, 1, 2, 3, 4, 5, 6]), np.array([0, 1, 1, 0, 1, 1, 1])
    x = np.array([[1e5], [1], [0.2], [0.4], [1.5], [0.3], [0.9]])
    with_it, without = fit(follow_up(t, s), x), fit(follow_up(t[1:], s[1:]), x[1:])
    np.testing.assert_allclose(with_it.beta, without.beta, rtol=1e-9)
    np.testing.assert_allclose(with_it.standard_error, without.standard_error, rtol=1e-9)
    assert with_it.value == pytest.approx(without.value, rel=1e-12)


def test_a_model_without_terms_is_at_its_maximum_at_once():
    found = fit(follow_up([1, 2, 3], [1, 0, 1]), np.empty((3, 0)))
    assert found.iterations == 0
    assert found.value == pytest.approx(-np.log(3))

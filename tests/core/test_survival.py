import math
from dataclasses import replace

import mpmath as mp
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from core.cases import CASES, both
from core.close import all_near, near
from core.literal import curves as literal
from core.literal import data as literal_data
from examples import examples
from hourglass.core.curves.bands import (
    BAND_SCALES,
    EQUAL_PRECISION,
    HALL_WELLNER,
    simultaneous_band,
)
from hourglass.core.curves.chosen_time import difference_at, number_needed
from hourglass.core.curves.difference import curve_difference
from hourglass.core.curves.estimators import (
    ESTIMATORS,
    FROM_HAZARD_SPREAD,
    TIES_SPREAD,
    TIES_TOGETHER,
)
from hourglass.core.curves.hazard import cumulative_hazard, smoothed_hazard
from hourglass.core.curves.log_log import log_log_line
from hourglass.core.curves.quantiles import median_follow_up, of_steps, quantile
from hourglass.core.curves.restricted_mean import mean_difference, mean_ratio, restricted_mean
from hourglass.core.curves.scales import INTERVAL_SCALES, LOG_LOG, LOGIT
from hourglass.core.curves.survival import after, survival_curve
from hourglass.core.errors import NotEstimableError
from hourglass.core.followup import follow_up
from hourglass.core.risk_table import at_risk_over_time, number_at_risk, person_time, risk_table

LEVEL = 0.9
SMALL = [name for name in CASES if name != "counts of a billion"]
"""Ties of a billion are spread one by one by the transcription, which has no time for it."""


def estimated(name, estimator):
    if estimator.key.endswith("spread") and name not in SMALL:
        pytest.skip("the transcription would take too long")
    data, rows = both(name)
    return data, rows, literal.curve(rows, literal.ESTIMATORS[estimator.key])


@pytest.mark.parametrize("scale", INTERVAL_SCALES, ids=lambda one: one.key)
@pytest.mark.parametrize("estimator", ESTIMATORS, ids=lambda one: one.key)
@pytest.mark.parametrize("name", CASES)
def test_curve_interval_and_quantiles_equal_the_definition(name, estimator, scale):
    data, _, wanted = estimated(name, estimator)
    found = survival_curve(risk_table(data), LEVEL, estimator, scale)
    assert found.table.time.tolist() == [p[0] for p in wanted]
    assert found.table.at_risk.tolist() == [p[1] for p in wanted]
    all_near(found.survival, [p[3] for p in wanted])
    all_near(found.sigma2, [p[4] if p[3] else None for p in wanted])
    limits = literal.intervals(wanted, scale.key, LEVEL)
    # Close to 0 on a plain scale a limit is the difference of two numbers of the size of S.
    small = mp.mpf("1e-16")
    all_near(found.lower, [None if one is None else one[0] for one in limits], small=small)
    all_near(found.upper, [None if one is None else one[1] for one in limits], small=small)
    for q in (0.1, 0.25, 0.5, 0.75, 1.0):
        got = quantile(found, q)
        t, low, high = literal.quantile(wanted, q, scale.key, LEVEL)
        near(got.time, t)
        assert (got.lower, got.upper) == tuple(None if x is None else float(x) for x in (low, high))


@pytest.mark.parametrize("estimator", ESTIMATORS, ids=lambda one: one.key)
@pytest.mark.parametrize("name", SMALL)
def test_restricted_mean_equals_the_definition(name, estimator):
    data, rows, wanted = estimated(name, estimator)
    curve = survival_curve(risk_table(data), LEVEL, estimator)
    for share in (0.3, 0.7, 1.0):
        tau = share * literal_data.end(rows)
        found = restricted_mean(curve, tau)
        mean, variance = literal.restricted_mean(wanted, tau)
        near(found.mean, mean)
        near(found.standard_error, mp.sqrt(variance))
    with pytest.raises(NotEstimableError):
        restricted_mean(curve, 1.01 * literal_data.end(rows))


@pytest.mark.parametrize("hazard", [TIES_TOGETHER, TIES_SPREAD], ids=["together", "spread"])
@pytest.mark.parametrize("name", SMALL)
def test_cumulative_hazard_equals_the_definition(name, hazard):
    data, rows = both(name)
    one = literal.nelson_aalen if hazard is TIES_TOGETHER else literal.spread
    found = cumulative_hazard(risk_table(data), LEVEL, hazard)
    wanted = literal.hazard(rows, LEVEL, one)
    for got, k in ((found.value, 0), (found.variance, 1), (found.lower, 2), (found.upper, 3)):
        all_near(got, [p[k] for p in wanted])


def test_ties_of_a_billion_are_spread_in_closed_form():
    data, _ = both("counts of a billion")
    found = survival_curve(risk_table(data), 0.95, FROM_HAZARD_SPREAD)
    h, v = mp.mpf(0), mp.mpf(0)
    for j, (n, d) in enumerate(zip(found.table.at_risk.tolist(), found.table.events.tolist())):
        h += mp.digamma(n + 1) - mp.digamma(n - d + 1)
        v += mp.psi(1, n - d + 1) - mp.psi(1, n + 1)
        near(found.survival[j], mp.exp(-h))
        near(found.sigma2[j], v)


@pytest.mark.parametrize("name", ["ties", "late entry", "counts", "an event at 0", "no ties"])
def test_smoothed_hazard_equals_the_definition_up_to_both_ends(name):
    data, rows = both(name)
    start, end = max(min(r.e for r in rows), 0), literal_data.end(rows)
    at = start + (end - start) * np.linspace(0, 1, 41)
    for b in (None, (end - start) / 2, (end - start) / 20):
        found = smoothed_hazard(data, at, b)
        for t, value in zip(at.tolist(), found.value):
            near(value, literal.smoothed(rows, t, b), rel=1e-9, small=mp.mpf("1e-12"))
    with pytest.raises(NotEstimableError):
        smoothed_hazard(data, at, (end - start) * 0.51)


def test_smoothed_hazard_of_many_times_is_summed_in_stretches_to_the_digit():
    random = np.random.default_rng(12)
    time, status = random.gamma(2, 10, 4000), random.integers(0, 2, 4000)
    data = follow_up(time, status)
    table = risk_table(data)
    end, jumps = table.last, table.events / table.at_risk
    at = np.array([0.0, 1.3, end / 5, end / 2, 0.9 * end, end])
    for b in (end / 2, end / 6, end / 300):
        found = smoothed_hazard(data, at, b).value
        for t, value in zip(at.tolist(), found.tolist(), strict=True):
            kernel = [_kernel_of((t - one) / b, t / b, (end - t) / b) for one in table.time]
            assert value == pytest.approx(max(math.fsum(kernel * jumps) / b, 0.0), rel=1e-11)


def _kernel_of(z, left, right):
    """K as it is defined, one time after another."""
    if left < 1 or right < 1:
        z, q = (z, left) if left < 1 else (-z, right)
        inner = z * (1 - 2 * q) + (3 * q * q - 2 * q + 1) / 2
        return 12 / (1 + q) ** 4 * (z + 1) * inner if -1 <= z <= q else 0.0
    return 0.75 * (1 - z * z) if abs(z) <= 1 else 0.0


@pytest.mark.parametrize("name", ["ties", "late entry", "no ties", "emptied midway"])
def test_survival_of_those_still_free_is_the_curve_of_the_rows_that_are_left(name):
    data, rows = both(name)
    s = float(np.quantile(data.exit, 0.3))
    left = [replace(r, e=max(r.e, s)) for r in rows if r.t > s]
    if literal.at(literal.curve(rows), s)[0] == 0:
        with pytest.raises(NotEstimableError):
            after(risk_table(data), s)
        return
    found = after(risk_table(data), s, LEVEL, scale=LOG_LOG)
    wanted = literal.curve(left)
    all_near(found.survival, [p[3] for p in wanted])
    limits = literal.intervals(wanted, "log-log", LEVEL)
    all_near(found.lower, [None if one is None else one[0] for one in limits])


def test_nobody_is_free_of_the_event_once_survival_is_zero_or_follow_up_has_ended():
    table = risk_table(follow_up([1, 2, 4], [1, 1, 0], [-np.inf, -np.inf, 2]))
    with pytest.raises(NotEstimableError, match="survival is 0"):
        after(table, 3)
    with pytest.raises(NotEstimableError, match="nobody"):
        after(table, 4)


def two_arms():
    """Two groups of one case, and as literal curves."""
    data, rows = both("no ties")
    first = np.arange(data.exit.size) < 27
    parts = [data.only(first), data.only(~first)]
    return parts, [[r for r, f in zip(rows, first) if f is np.bool_(k)] for k in (True, False)]


def test_contrasts_of_two_groups_equal_the_definition():
    parts, rows = two_arms()
    curves = [survival_curve(risk_table(p), LEVEL) for p in parts]
    a, b = (literal.curve(r) for r in rows)
    tau = min(literal_data.end(r) for r in rows)
    wanted = literal.mean_contrasts(a, b, tau, LEVEL)
    means = [restricted_mean(c, tau) for c in curves]
    for found, (estimate, low, high, z) in zip(
        (mean_difference(*means, LEVEL), mean_ratio(*means, LEVEL)), wanted
    ):
        near(found.estimate, estimate)
        near(found.lower, low)
        near(found.upper, high)
        near(found.p, 2 * mp.ncdf(-abs(z)))
    for t in (3.0, 8.0):
        (sa, va), (sb, vb) = literal.at(a, t), literal.at(b, t)
        found = difference_at(*curves, t)
        half = literal_data.z_of(LEVEL) * mp.sqrt(sa**2 * va + sb**2 * vb)
        near(found.estimate, sb - sa)
        near(found.lower, sb - sa - half)
        x2 = (mp.log(-mp.log(sa)) - mp.log(-mp.log(sb))) ** 2 / (
            va / mp.log(sa) ** 2 + vb / mp.log(sb) ** 2
        )
        near(found.p, mp.erfc(mp.sqrt(x2 / 2)))
        needed = number_needed(parts[0], *curves, t)
        near(needed.estimate, 1 / (sb - sa))
        near(needed.at_lower, 1 / (sb - sa - half))
        assert needed.course == "benefit through no difference to harm"


def test_a_contrast_that_is_not_known_gives_the_reason():
    none = survival_curve(risk_table(follow_up([5, 6], [0, 0])))
    all_gone = survival_curve(risk_table(follow_up([1, 2], [1, 1])))
    some = survival_curve(risk_table(follow_up([1, 6], [1, 0])))
    assert difference_at(none, some, 7).estimate is None
    at_zero = difference_at(some, all_gone, 2)
    assert at_zero.estimate == -0.5
    assert at_zero.lower is None
    assert at_zero.p is None
    assert at_zero.blank
    still_one = difference_at(none, some, 2)
    assert still_one.lower is not None
    assert still_one.p is None
    data = follow_up([1, 6], [1, 0])
    with pytest.raises(NotEstimableError, match="width"):
        number_needed(data, none, none, 2)
    with pytest.raises(NotEstimableError, match="competing"):
        number_needed(follow_up([1, 6], [2, 0]), none, some, 2)
    mean = restricted_mean(none, 5)
    assert mean_difference(mean, mean).estimate is None


def hall_wellner_by_bridge(k, a):
    """The published sum, in 50 digits, with many more terms than are needed."""
    k, a = mp.mpf(k), mp.mpf(a)
    r, q = k * mp.sqrt((1 - a) / a), 1 / (1 - a)
    total = sum(
        (-1) ** m
        * mp.exp(-2 * m * m * k * k)
        * (mp.ncdf(r * (2 * m + q)) - mp.ncdf(r * (2 * m - q)))
        for m in range(1, 60)
    )
    return 1 - 2 * mp.ncdf(-k / mp.sqrt(a * (1 - a))) + 2 * total


@pytest.mark.parametrize("scale", BAND_SCALES, ids=lambda one: one.key)
@pytest.mark.parametrize("name", ["ties", "counts", "no ties", "all events"])
def test_bands_equal_the_definition(name, scale):
    data, rows = both(name)
    curve = survival_curve(risk_table(data))
    points = [p for p in literal.curve(rows) if p[3] > 0]
    n, z = sum(r.w for r in rows), literal_data.z_of(0.95)
    share = [n * p[4] / (1 + n * p[4]) for p in points]
    hall, equal = (
        simultaneous_band(data, curve, b, scale) for b in (HALL_WELLNER, EQUAL_PRECISION)
    )
    assert abs(hall_wellner_by_bridge(hall.critical, share[-1]) - mp.mpf("0.95")) < 1e-12
    c, span = (
        mp.mpf(equal.critical),
        mp.log(share[-1] * (1 - share[0]) / share[0] / (1 - share[-1])),
    )
    assert abs(mp.npdf(c) * (4 / c + (c - 1 / c) * span) - mp.mpf("0.05")) < 1e-12
    assert all(mp.npdf(x) * (4 / x + (x - 1 / x) * span) < mp.mpf("0.05")
               for x in (c + mp.mpf(k) / 10 for k in range(1, 60)))  # fmt: skip
    assert equal.critical > z
    for band, reach in (
        (hall, lambda v: mp.mpf(hall.critical) * (1 + n * v) / mp.sqrt(n)),
        (equal, lambda v: c * mp.sqrt(v)),
    ):
        wanted = [literal.limits(p[3], reach(p[4]), scale.key) for p in points]
        all_near(band.lower, [w[0] for w in wanted], small=mp.mpf("1e-16"))
        all_near(band.upper, [w[1] for w in wanted], small=mp.mpf("1e-16"))


def test_a_band_is_refused_where_it_is_not_known():
    late = both("late entry")[0]
    with pytest.raises(NotEstimableError, match="delayed entry"):
        simultaneous_band(late, survival_curve(risk_table(late)), HALL_WELLNER)
    data = both("ties")[0]
    with pytest.raises(NotEstimableError, match="logit"):
        simultaneous_band(data, survival_curve(risk_table(data)), HALL_WELLNER, LOGIT)
    one = follow_up([1, 2, 3], [1, 0, 0])
    with pytest.raises(NotEstimableError, match="two event times"):
        simultaneous_band(one, survival_curve(risk_table(one)), EQUAL_PRECISION)
    assert simultaneous_band(one, survival_curve(risk_table(one)), HALL_WELLNER).critical > 0
    gone = follow_up([1, 1], [1, 1])
    with pytest.raises(NotEstimableError, match="above 0"):
        simultaneous_band(gone, survival_curve(risk_table(gone)), HALL_WELLNER)


@pytest.mark.parametrize("name", CASES)
def test_number_followed_holds_between_times_too(name):
    data, rows = both(name)
    followed = at_risk_over_time(data)
    for t in data.end * np.linspace(0.01, 1, 57):
        k = np.searchsorted(followed.time, t)
        assert followed.number[k] == literal_data.at_risk(rows, t)
        assert number_at_risk(data, np.array([t]))[0] == followed.number[k]
    near(person_time(data), sum(r.w * (mp.mpf(r.t) - max(r.e, 0)) for r in rows))


@pytest.mark.parametrize("name", ["ties", "late entry", "counts", "competing events"])
def test_follow_up_median_reverses_the_status(name):
    data, rows = both(name)
    near(
        median_follow_up(data).time,
        literal.quantile(literal.curve(rows, of=lambda r: r.s == 0), 0.5)[0],
    )


def test_a_step_at_exactly_one_half_gives_its_midpoint():
    curve = survival_curve(risk_table(follow_up([1, 2, 3, 4], [1, 1, 1, 1])))
    found = quantile(curve, 0.5)
    assert (found.time, found.rule) == (2.5, "midpoint")
    flat = survival_curve(risk_table(follow_up([1, 2, 9, 9], [1, 1, 0, 0])))
    assert (quantile(flat, 0.5).time, quantile(flat, 0.5).rule) == (2.0, "first")


def test_limits_that_rounding_parts_from_the_share_reach_it():
    time, survival = np.array([1.0, 2, 3]), np.array([0.9, 0.4, 0.3])
    near_half = np.array([0.8, 0.5 + 5e-13, 0.2])
    found = of_steps(time, survival, near_half - 0.1, near_half, 0.5)
    assert (found.lower, found.upper) == (2.0, 2.0)
    assert of_steps(time, survival, near_half, near_half + 0.1, 0.5).lower == 2.0
    beyond = near_half + np.array([0, 1e-11, 0])
    assert of_steps(time, survival, beyond, beyond, 0.5).upper == 3.0


def test_the_whole_share_is_reached_where_survival_is_zero_and_no_later_event_moves_it():
    table = risk_table(follow_up([1, 2, 5], [1, 1, 1], [-np.inf, -np.inf, 3]))
    found = quantile(survival_curve(table), 1)
    assert (found.time, found.rule) == (2.0, "first")
    for share in (0, -0.1, 1.1, np.nan):
        with pytest.raises(ValueError, match="share"):
            quantile(survival_curve(table), share)


def test_the_curve_is_not_read_past_its_end_nor_given_an_interval_at_zero():
    curve = survival_curve(risk_table(follow_up([2, 2, 5], [0, 1, 1])))
    assert curve.at(5.0001) is None
    assert curve.at(-1) is None
    end = curve.at(5)
    assert end is not None
    assert (end.survival, end.lower, end.upper, end.events) == (0.0, None, None, 2)
    assert end.bars is None
    start = curve.at(1.9)
    assert start is not None
    assert (start.survival, start.lower, start.upper) == (1.0, 1.0, 1.0)
    early = curve.at(3)
    assert early is not None
    assert early.bars == pytest.approx((2 / 3 - math.sqrt(2 / 27), 2 / 3 + math.sqrt(2 / 27)))


def test_a_time_zero_event_has_everyone_at_risk():
    table = risk_table(follow_up([0, 1, 2], [1, 0, 1]))
    assert table.at_risk.tolist() == [3, 1]


@settings(max_examples=examples(60), deadline=None)
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


def test_the_line_of_a_group_leaves_out_time_zero_and_survival_zero():
    curve = survival_curve(risk_table(follow_up([0, 1, 2, 3], [1, 1, 0, 1])))
    found = log_log_line(curve)
    all_near(found.time, [mp.mpf(1)])
    all_near(found.height, [mp.log(-mp.log(mp.mpf(1) / 2))])


def test_the_band_of_a_difference_lies_about_the_midpoint_and_is_half_as_wide_as_the_interval():
    a, b = (
        survival_curve(risk_table(follow_up(t, s)))
        for t, s in (([1, 2, 3, 4], [1, 1, 1, 0]), ([2, 3, 5], [0, 1, 1]))
    )
    found = curve_difference(a, b)
    assert found.time.tolist() == [0, 1, 2, 3]
    ends = [[1, 0.75, 0.5, 0.25], [1, 1, 1, 0.5]]
    np.testing.assert_allclose(found.difference, np.subtract(ends[1], ends[0]), atol=1e-15)
    np.testing.assert_allclose((found.band_low + found.band_high) / 2, np.mean(ends, axis=0))
    half = (found.upper - found.lower) / 2
    np.testing.assert_allclose(found.band_high - found.band_low, half, atol=1e-15)
    assert half[2] > half[1] > 0

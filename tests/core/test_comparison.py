"""Tests of groups against their definitions in 50 digits."""

import mpmath as mp
import numpy as np
import pytest

from core.cases import CASES, both
from core.close import all_near, near
from core.literal import comparison as literal
from core.literal import regression
from core.literal.data import sample_quantile
from hourglass.core.comparison.adjustments import ADJUSTMENTS, adjusted
from hourglass.core.comparison.combined import combined
from hourglass.core.comparison.log_rank import log_rank
from hourglass.core.comparison.number_splits import NUMBER_SPLITS, TERTILES
from hourglass.core.comparison.pairs import pairs
from hourglass.core.comparison.screening import Category, screen
from hourglass.core.comparison.thresholds import threshold_p, threshold_profile
from hourglass.core.comparison.weights import EQUAL, WEIGHTS, EarlyLate
from hourglass.core.competing.gray import gray_test
from hourglass.core.competing.incidence import cause_table, incidence
from hourglass.core.errors import NotEstimableError, RefusedRowsError
from hourglass.core.followup import follow_up
from hourglass.core.streams import permutation

LEVEL = 0.9
FEW_CASES = ["ties", "late entry and counts", "competing events", "emptied midway", "all at one time",
       "one row, an event", "all censored", "counts of a billion", "one at risk"]  # fmt: skip


def grouped(name, groups, strata=1):
    rng = np.random.default_rng(groups)
    n = CASES[name]["t"].size
    group, stratum = rng.integers(0, groups, n), rng.integers(0, strata, n)
    data, rows = both(name, group, stratum)
    return data, group, stratum, rows


@pytest.mark.parametrize("strata", [1, 3])
@pytest.mark.parametrize("weight", WEIGHTS, ids=lambda one: one.key)
@pytest.mark.parametrize("name", FEW_CASES)
def test_test_trend_and_evidence_equal_the_definition(name, weight, strata):
    groups = 3
    data, group, stratum, rows = grouped(name, groups, strata)
    # The transcription counts the groups that have rows; the program those that were named.
    groups = max(r.g for r in rows) + 1
    w = literal.weights_of(weight.key)
    u, v, expected, df = literal.log_rank(rows, w)
    found = log_rank(data, group, groups, weight, stratum)
    size = max(*(abs(x) for x in u), mp.mpf("1e-20")) if len(u) > 1 else mp.mpf(1)
    all_near(found.excess, u, small=size * mp.mpf("1e-13"))
    all_near(found.expected, expected)
    for g in range(groups):
        all_near(found.variance[g], list(v[g, :]), small=mp.mpf("1e-15") * max(v[g, g], 1))
    assert found.test.df == df
    if df == 0:
        assert found.test.statistic is None
        assert found.test.blank
    else:
        wanted = literal.statistic(u, v, df)
        near(found.test.statistic, wanted, rel=1e-11)
        near(
            found.test.p,
            mp.gammainc(mp.mpf(df) / 2, wanted / 2, mp.inf, regularized=True),
            rel=1e-11,
        )
        scores = np.array([1.0, 3.0, 4.5])[:groups]
        near(found.trend(scores).statistic, literal.trend(rows, w, scores), rel=1e-11)
    course = found.evidence(0, LEVEL)
    wanted_course = literal.evidence(rows, w, 0, LEVEL)
    assert course.time.tolist() == [p[0] for p in wanted_course]
    all_near(course.course, [p[1] for p in wanted_course], small=size * mp.mpf("1e-13"))
    all_near(course.limit, [p[2] for p in wanted_course], small=mp.mpf("1e-15"))


def test_a_trend_needs_different_scores_at_risk_together():
    data = follow_up([1, 2, 3, 4, 5, 6], [1, 1, 1, 1, 0, 0])
    group = np.array([0, 1, 0, 1, 0, 1])
    assert log_rank(data, group, 2).trend(np.array([2.0, 2.0])).statistic is None
    with pytest.raises(ValueError, match="finite"):
        log_rank(data, group, 2).trend(np.array([1.0, np.nan]))


@pytest.mark.parametrize("code", [-1, 2])
def test_a_group_code_out_of_range_is_refused_by_row(code):
    with pytest.raises(RefusedRowsError) as refused:
        log_rank(follow_up([1, 2, 3], [1, 0, 1]), np.array([0, code, 1]), 2)
    assert refused.value.refusals[0].rows.tolist() == [1]


@pytest.mark.parametrize("reference", [None, 1])
def test_pairs_are_tested_on_their_own_rows_and_adjusted(reference):
    data, group, stratum, rows = grouped("late entry and counts", 4, 2)
    found = pairs(data, group, 5, EQUAL, stratum, reference, ADJUSTMENTS[3])
    wanted = literal.all_pairs(4) if reference is None else [(1, 0), (1, 2), (1, 3)]
    there = [pair for pair in found if 4 not in (pair.a, pair.b)]
    assert [(p.a, p.b) for p in there] == wanted
    assert all(p.test.blank and p.p is None for p in found if 4 in (p.a, p.b))
    for pair in there:
        part = [r for r in rows if r.g in (pair.a, pair.b)]
        for r in part:
            r.g, r.stratum = int(r.g == pair.b), r.stratum
        u, v, _, _ = literal.log_rank(part, literal.weights_of("log-rank"))
        near(pair.test.statistic, u[0] ** 2 / v[0, 0])
        for r, g in zip(rows, group):
            r.g = int(g)
    raw = [p.test.p for p in there]
    all_near([p.p for p in there], [mp.mpf(q) for q in literal.adjusted(raw, "Holm")])


@pytest.mark.parametrize("adjustment", ADJUSTMENTS, ids=lambda one: one.key)
def test_p_values_are_adjusted_over_those_that_are_defined(adjustment):
    p = [0.04, None, 1e-12, 0.04, 0.9, 0.011, 1.0]
    found = adjusted(p, adjustment)
    assert found[1] is None
    wanted = literal.adjusted([q for q in p if q is not None], adjustment.key)
    all_near([q for q in found if q is not None], [mp.mpf(q) for q in wanted])
    assert adjusted([None], adjustment) == [None]


@pytest.mark.parametrize("strata", [1, 2])
@pytest.mark.parametrize("name", ["no ties", "late entry and counts", "ties"])
def test_four_weights_at_once(name, strata):
    data, group, stratum, rows = grouped(name, 2, strata)
    found = combined(data, group, stratum)
    z, correlation = literal.combined_z(rows)
    all_near(found.z, z, rel=1e-11)
    near(found.largest, max(abs(one) for one in z), rel=1e-11)
    # The chance by drawing: a normal vector with this correlation, a million times.
    drawn = np.random.default_rng(1).multivariate_normal(
        np.zeros(len(z)), np.array(correlation, dtype=float), 1_000_000, check_valid="ignore"
    )
    share = (np.abs(drawn).max(axis=1) >= found.largest).mean()
    assert abs(found.p - share) < 5 * np.sqrt(share * (1 - share) / 1e6) + 1e-9


def test_with_one_event_time_one_weight_is_left_and_its_p_is_a_normals():
    data = follow_up([1, 2, 2, 3], [1, 0, 0, 0])
    found = combined(data, np.array([0, 0, 1, 1]))
    assert found.weights == (EarlyLate(0, 0), EarlyLate(1, 0))
    near(found.p, mp.erfc(abs(mp.mpf(found.z[0])) / mp.sqrt(2)))
    nothing = combined(follow_up([1, 2], [0, 0]), np.array([0, 1]))
    assert nothing.p is None
    assert nothing.blank


@pytest.mark.parametrize("weight", [EQUAL, EarlyLate(0, 1)], ids=lambda one: one.key)
@pytest.mark.parametrize(
    ("name", "strata"), [("late entry and counts", 2), ("ties", 1), ("counts", 3)]
)
def test_threshold_profile_is_the_test_at_every_admissible_cut(name, strata, weight):
    data, _, stratum, rows = grouped(name, 2, strata)
    x = np.round(np.random.default_rng(3).normal(size=data.exit.size), 1)
    found = threshold_profile(data, x, weight, stratum)
    wanted = literal.profile(rows, x.tolist(), literal.weights_of(weight.key))
    known = ~np.isnan(found.statistic)
    assert found.cut[known].tolist() == list(wanted)
    all_near(found.statistic[known], list(wanted.values()), rel=1e-10)
    largest = max(wanted.values())
    near(found.largest, largest)
    assert found.best == next(c for c, value in wanted.items() if value == largest)


def test_permutations_give_the_p_that_trying_each_would_give():
    data, _, stratum, _ = grouped("counts", 2, 2)
    x = np.round(np.random.default_rng(3).normal(size=data.exit.size), 1)
    profile = threshold_profile(data, x, EQUAL, stratum)
    found = threshold_p(data, x, profile, 11, EQUAL, stratum, 1000, workers=2)
    rows = np.repeat(np.arange(data.exit.size), data.count)
    copies = follow_up(data.exit[rows], data.status[rows])
    reached = 0
    for b in range(1000):
        order, moved = permutation_within(stratum[rows], 11, 3, b), np.empty(rows.size)
        moved[:] = x[rows][order]
        try:
            largest = threshold_profile(copies, moved, EQUAL, stratum[rows]).largest
        except NotEstimableError:
            largest = 0.0
        reached += largest >= (1 - 1e-12) * profile.largest
    assert found == (1 + reached) / 1001
    assert 0 < reached < 1000
    assert threshold_p(data, x, profile, 11, EQUAL, stratum, 1000, workers=1) == found


def permutation_within(stratum, seed, *key):
    """Position i gets the value of place π(i): one sort per stratum, one stream over all rows."""
    raw = np.random.PCG64(np.random.SeedSequence(seed, spawn_key=key)).random_raw(stratum.size)
    u = ((raw >> np.uint64(12)) + 0.5) / 2**52
    found = np.empty(stratum.size, dtype=int)
    for code in set(stratum.tolist()):
        places = [i for i in range(stratum.size) if stratum[i] == code]
        for position, place in zip(places, sorted(places, key=lambda i: u[i])):
            found[position] = place
    return found


def test_a_permutation_without_strata_is_one_sort():
    every = np.zeros(50, dtype=int)
    assert permutation(50, 4, 3, 2).tolist() == permutation_within(every, 4, 3, 2).tolist()


def test_a_cut_is_refused_where_it_has_no_meaning():
    data = follow_up(
        [1, 2, 3, 4], [1, 1, 0, 1], [-np.inf, 1, -np.inf, -np.inf], subject=[0, 0, 1, 2]
    )
    with pytest.raises(RefusedRowsError, match="within a subject"):
        threshold_profile(data, np.array([1.0, 2, 3, 4]))
    with pytest.raises(RefusedRowsError, match="stratum changes within a subject"):
        threshold_profile(data, np.array([1.0, 1, 3, 4]), EQUAL, np.array([0, 1, 0, 0]))
    with pytest.raises(RefusedRowsError, match="missing"):
        threshold_profile(follow_up([1, 2], [1, 1]), np.array([np.nan, 2]))
    with pytest.raises(RefusedRowsError) as refused:
        threshold_profile(data, np.array([np.nan, 2, 3, 4]))
    assert [one.rows.tolist() for one in refused.value.refusals] == [[0], [1]], "each row once"
    with pytest.raises(NotEstimableError, match="no cut"):
        threshold_profile(follow_up([1, 2], [1, 1]), np.array([1.0, 2]))
    many = follow_up(np.arange(1, 31), np.ones(30), count=np.full(30, 10**5))
    x = np.arange(30.0)
    with pytest.raises(NotEstimableError, match="drawn one by one"):
        threshold_p(many, x, threshold_profile(many, x), 1)


def test_screening_orders_by_p_and_shows_how_many_rows_were_complete():
    data, group, stratum, rows = grouped("late entry and counts", 3, 2)
    rng = np.random.default_rng(8)
    x = np.where(rng.random(data.exit.size) < 0.2, np.nan, rng.normal(size=data.exit.size))
    above = np.where(np.isnan(x), -1, (x > 0.1).astype(int))
    candidates = [Category(np.zeros(data.exit.size, dtype=int)), Category(group - 1), Category(above),
                  TERTILES.candidate(x, None), Category(np.full(data.exit.size, -1))]  # fmt: skip
    found = screen(data, candidates, EQUAL, stratum)
    assert [s.place for s in found[-2:]] == [0, 4]
    assert found[-1].rows == 0
    assert [s.test.p for s in found[:3]] == sorted(s.test.p for s in found[:3])
    known = [k for k in range(x.size) if not np.isnan(x[k])]
    values = sorted(v for k in known for v in [x[k]] * rows[k].w)
    thirds = [sample_quantile(values, p) for p in (mp.mpf(1) / 3, mp.mpf(2) / 3)]
    for s in found[:3]:
        keep = known if s.place > 1 else [k for k in range(x.size) if group[k] > 0]
        for k in keep:
            rows[k].g = (int(group[k] - 1), int(x[k] > 0.1), sum(x[k] > q for q in thirds))[
                s.place - 1
            ]
        part = [rows[k] for k in keep]
        assert s.rows == sum(r.w for r in part)
        u, v, _, df = literal.log_rank(part, literal.weights_of("log-rank"))
        near(s.test.statistic, literal.statistic(u, v, df), rel=1e-11)


def split_by(way, values, known, x):
    """The group of each row, by the definitions of section 3."""
    shares = {"median": [2], "tertiles": [3, 3], "quarters": [4, 4, 4]}
    if way == "threshold":
        return [int(x[k] > 0.3) for k in known]
    parts = shares[way]
    cuts = [sample_quantile(values, mp.mpf(k + 1) / parts[0]) for k in range(len(parts))]
    return [sum(x[k] > cut for cut in cuts) for k in known]


@pytest.mark.parametrize("way", NUMBER_SPLITS, ids=lambda way: way.key)
@pytest.mark.parametrize("strata", [1, 2])
def test_a_number_is_tested_as_it_is_stated_to_be_split(way, strata):
    data, _, stratum, rows = grouped("late entry and counts", 2, strata)
    rng = np.random.default_rng(9)
    x = np.where(rng.random(data.exit.size) < 0.2, np.nan, rng.normal(size=data.exit.size).round(1))
    (found,) = screen(data, [way.candidate(x, 0.3)], EQUAL, stratum if strata > 1 else None)
    known = [k for k in range(x.size) if not np.isnan(x[k])]
    part = [rows[k] for k in known]
    assert found.rows == sum(r.w for r in part)
    if way.key == "as it is":
        columns = regression.digits(x[known][:, None])
        if strata == 1:
            for r in part:
                r.stratum = 0
        _, u, info, _ = regression.partial_likelihood(part, columns, regression.digits([0]))
        near(found.test.statistic, u[0] ** 2 / info[0, 0], rel=1e-9)
        assert found.test.df == 1
        return
    values = sorted(v for k in known for v in [x[k]] * rows[k].w)
    for r, g in zip(part, split_by(way.key, values, known, x), strict=True):
        r.g = g
        if strata == 1:
            r.stratum = 0
    u, v, _, df = literal.log_rank(part, literal.weights_of("log-rank"))
    near(found.test.statistic, literal.statistic(u, v, df), rel=1e-11)


def test_a_number_of_one_value_has_no_test():
    data = follow_up([1, 2, 3], [1, 0, 1])
    one = np.array([4.0, 4.0, np.nan])
    found = screen(data, [way.candidate(one, 4.0) for way in NUMBER_SPLITS])
    assert [s.test.statistic for s in found] == [None] * len(NUMBER_SPLITS)
    assert {s.rows for s in found} == {2}
    assert all(s.test.blank for s in found)


@pytest.mark.parametrize("name", ["competing events", "competing events, late", "ties", "emptied midway",
                                  "all at one time", "counts of a billion"])  # fmt: skip
def test_cumulative_incidence_equals_the_definition(name):
    data, rows = both(name)
    table = cause_table(data)
    for cause in (1, 2):
        found, wanted = incidence(table, cause, LEVEL), literal.incidence(rows, cause)
        assert found.time.tolist() == [p[0] for p in wanted]
        all_near(found.value, [p[1] for p in wanted])
        all_near(found.variance, [p[2] for p in wanted], rel=1e-11, small=mp.mpf("1e-30"))
        for j, (_, f, v) in enumerate(wanted):
            if f in {0, 1}:
                assert np.isnan([found.lower[j], found.upper[j]]).all()
                continue
            log = mp.log(1 - f)
            reach = literal.z_of(LEVEL) * mp.sqrt(max(v, 0)) / (1 - f) / abs(log)
            near(found.lower[j], 1 - (1 - f) ** mp.exp(-reach), rel=1e-11)
            near(found.upper[j], 1 - (1 - f) ** mp.exp(reach), rel=1e-11)
    total = sum(incidence(table, c).value for c in table.causes) + table.survival
    np.testing.assert_allclose(total, 1, rtol=1e-14)
    with pytest.raises(NotEstimableError):
        incidence(table, 0)


@pytest.mark.parametrize("groups", [2, 3])
def test_test_of_cumulative_incidence_equals_the_definition(groups):
    data, group, _, rows = grouped("competing events", groups)
    found = gray_test(data, group, groups)
    z, v = literal.gray(rows)
    all_near(found.excess, z, rel=1e-11)
    for k in range(groups):
        all_near(found.variance[k], list(v[k, :]), rel=1e-11)
    assert found.test.df == groups - 1
    near(found.test.statistic, literal.statistic(z, v, groups - 1), rel=1e-10)


def test_test_of_cumulative_incidence_is_refused_or_blank_where_it_is_not_known():
    late, group, _, _ = grouped("competing events, late", 2)
    with pytest.raises(NotEstimableError, match="delayed entry"):
        gray_test(late, group, 2)
    nothing = gray_test(follow_up([1, 2, 3], [2, 2, 0]), np.array([0, 1, 1]), 3)
    assert nothing.test.statistic is None
    assert nothing.test.blank
    # Alone at risk, group 0 takes the pooled incidence to 1 while group 1 still has events to come.
    spent = follow_up([1, 1, 2, 3, 3, 4], [1, 1, 1, 1, 1, 1], [-np.inf] * 3 + [0, 0, 0])
    with pytest.raises(NotEstimableError, match="everyone had an event at time 0"):
        gray_test(follow_up([0, 0, 1, 2, 3], [1, 1, 1, 1, 0], [-np.inf] * 2 + [0] + [-np.inf] * 2),
                  np.array([0, 0, 0, 1, 1]), 2)  # fmt: skip
    assert gray_test(spent, np.array([0, 1, 0, 1, 0, 1]), 2).test.p is not None


@pytest.mark.parametrize("seed", range(300))
def test_test_of_cumulative_incidence_is_a_number_or_a_reason_on_few_rows(seed):
    rng = np.random.default_rng(seed)
    n, groups = int(rng.integers(3, 9)), int(rng.integers(2, 4))
    t, s = rng.integers(0, 4, n), rng.integers(0, 3, n)
    e = np.where((t > 0) & (rng.random(n) < 0.3), 0.0, -np.inf)
    group = rng.integers(0, groups, n)
    try:
        found = gray_test(follow_up(t, s, e), group, groups)
    except NotEstimableError:
        return
    assert np.isfinite(found.variance).all()
    assert np.abs(found.variance).max() < 1e6
    assert found.test.blank or 0 <= found.test.p <= 1


@pytest.mark.parametrize("unit", [1e300, 1e-300])
def test_scores_of_a_trend_may_be_of_any_size(unit):
    data, group, stratum, _ = grouped("ties", 3)
    shown = log_rank(data, group, 3, EQUAL, stratum)
    wanted = shown.trend(np.array([-1.0, 0.5, 3]))
    found = shown.trend(np.array([-1.0, 0.5, 3]) * unit)
    assert found.statistic == pytest.approx(wanted.statistic, rel=1e-12)

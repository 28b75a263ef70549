"""Section 11 against the transcription, on awkward records: same times, before entry, after exit, gaps."""

import time
from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from core.literal import records as literal
from examples import examples
from hourglass.core.covariates.course import Course
from hourglass.core.covariates.first_of import first_events
from hourglass.core.covariates.gathered import SUMMARIES, gathered, time_since
from hourglass.core.covariates.in_force import change_since_baseline, in_force
from hourglass.core.covariates.joined_times import joined_times
from hourglass.core.covariates.periods import (
    banded,
    period_on,
    period_value,
    periods_of,
    sum_crossings,
    united,
)
from hourglass.core.covariates.records import (
    SAME_TIME_RULES,
    constant_values,
    one_at_each_time,
    records_of,
)
from hourglass.core.covariates.split import split_where_changed
from hourglass.core.errors import RefusedRowsError
from hourglass.core.followup import follow_up
from hourglass.core.regression.fit import fit

TIMES = st.integers(-4, 16).map(lambda k: k / 2)
VALUES = st.none() | st.sampled_from([-1.5, 0.0, 0.1, 0.2, 0.3, 2.0, 1e9])
RECORDS = st.lists(st.lists(st.tuples(TIMES, VALUES), max_size=6), min_size=1, max_size=4)
BASELINES = st.lists(st.sampled_from([0.0, 0.5, 2.0]), min_size=4, max_size=4)
LIMITS = st.sampled_from([np.inf, 0.5, 1.5, 4.0])
LAGS = st.sampled_from([0.0, 0.5, 2.0])
CUTS = st.sets(st.sampled_from([0.3, 0.5, 1.0, 1.5, 4.0]), min_size=1, max_size=3).map(sorted)
MOMENTS = [k / 4 for k in range(41)]
"""On the grid of the times and between them."""


def arrays(of_subjects, limit=np.inf, lag=0.0):
    subject = [k for k, own in enumerate(of_subjects) for _ in own]
    own = np.array([u for records in of_subjects for u, _ in records])
    value = [np.nan if v is None else v for records in of_subjects for _, v in records]
    at = own + lag
    return records_of(subject, at, value, own=own, until=at + limit)


def agrees(course: Course, wanted, baselines, subjects):
    """Whether a course holds at every moment what the transcription does; NaN is None."""
    for s in range(subjects):
        found = course.at(np.full(len(MOMENTS), s), np.array(MOMENTS))
        for t, one in zip(MOMENTS, found):
            other = wanted(s, t, baselines[s])
            known = None if np.isnan(one) else float(one)
            assert (known is None) == (other is None), (s, t, known, other)
            assert other is None or known == pytest.approx(float(other), rel=1e-12, abs=1e-300)


@given(RECORDS, BASELINES, LIMITS, LAGS, st.sampled_from(list(SAME_TIME_RULES)))
@settings(max_examples=examples(300))
def test_the_value_in_force(records, baselines, limit, lag, rule):
    b = np.array(baselines[: len(records)])
    found = in_force(arrays(records, limit, lag), b, SAME_TIME_RULES[rule])
    agrees(
        found,
        lambda s, t, b: literal.in_force(records[s], t, b, limit, lag, rule),
        baselines,
        len(records),
    )
    found = change_since_baseline(arrays(records), b, SAME_TIME_RULES[rule])
    agrees(found, lambda s, t, b: literal.change(records[s], t, b, rule), baselines, len(records))


@given(RECORDS, BASELINES, LIMITS, LAGS, st.booleans())
@settings(max_examples=examples(200))
def test_what_records_come_to(records, baselines, limit, lag, after_baseline):
    b = np.array(baselines[: len(records)])
    given_records = arrays(records, limit, lag)
    if after_baseline:
        given_records = given_records.after(b)
    for key, summary in SUMMARIES.items():
        agrees(
            gathered(given_records, b, summary),
            lambda s, t, b, key=key: literal.gathered(
                key, records[s], t, b, limit, lag, after_baseline
            ),
            baselines,
            len(records),
        )


@given(RECORDS, BASELINES, LIMITS, LAGS, CUTS, st.booleans())
@settings(max_examples=examples(200))
def test_the_time_since_a_record_in_bands(records, baselines, limit, lag, cuts, last):
    ours = arrays(records, limit, lag)
    crossings = np.empty((ours.row.size, len(cuts)))
    crossings[ours.row] = ours.at[:, None] + np.array(cuts)
    agrees(
        time_since(ours, np.array(baselines[: len(records)]), crossings, last=last),
        lambda s, t, b: literal.since(records[s], t, b, cuts, last, limit, lag),
        baselines,
        len(records),
    )


PERIODS = st.lists(
    st.lists(
        st.tuples(
            st.sampled_from([0.0, 0.5, 1.0]),
            st.sampled_from([0.5, 1.0, 2.5, np.inf]),
            st.none() | st.sampled_from([0.0, 0.1, 0.2, 0.3, 3.0]),
        ),
        max_size=4,
    ),
    min_size=1,
    max_size=4,
)


def side_by_side(lengths, begin=-1.0):
    """(from, to, value), one after the other with gaps, an open one last."""
    made, at = [], begin
    for gap, length, value in lengths:
        if made and made[-1][1] == np.inf:
            break
        made.append((at + gap, at + gap + length, value))
        at = made[-1][1]
    return made


def of_periods(periods):
    every = [(s, *one) for s, own in enumerate(periods) for one in own]
    columns = list(zip(*every)) if every else [(), (), (), ()]
    value = [np.nan if v is None else v for v in columns[3]]
    return periods_of(columns[0], columns[1], columns[2], value)


@given(PERIODS, BASELINES, CUTS)
@settings(max_examples=examples(300))
def test_periods(lengths, baselines, cuts):
    periods = [side_by_side(own) for own in lengths]
    b, n = np.array(baselines[: len(periods)]), len(periods)
    made = of_periods(periods)
    agrees(
        period_on(made, b),
        lambda s, t, b: literal.value_of_period([(f, e, 1) for f, e, _ in periods[s]], t, b, 0),
        baselines,
        n,
    )
    for outside in (np.nan, 0.0):
        agrees(
            period_value(made, b, outside),
            lambda s, t, b, o=outside: literal.value_of_period(
                periods[s], t, b, None if np.isnan(o) else o
            ),
            baselines,
            n,
        )
    crossings = sum_crossings(made, np.array(cuts), n)
    crossings = replace(crossings, after=joined_times(np.array(MOMENTS), crossings.after))
    agrees(
        banded(crossings, b),
        lambda s, t, b: literal.cumulative(periods[s], t, b, cuts),
        baselines,
        n,
    )


def test_a_sum_reaches_its_cut_at_the_exact_moment():
    tenths = [(k, k + 1.0, 0.1) for k in range(12)]
    found = sum_crossings(of_periods([tenths]), np.array([0.3, 1.0]), 1)
    assert found.after.tolist() == [3.0, 10.0], "ten times 0.1 is 1 and exceeds it afterwards"
    large = [(0.0, 1.0, 1e6), (1.0, 2.0, 1.0), (2.0, np.inf, 1e-3)]
    found = sum_crossings(of_periods([large]), np.array([1e6 + 1.0005]), 1)
    wanted = 2 + (Fraction(1e6 + 1.0005) - 10**6 - 1) / Fraction(1e-3)
    assert found.after.tolist() == [float(wanted)]


def test_values_below_0_do_not_add_up_and_unknown_ones_end_the_sum():
    with pytest.raises(RefusedRowsError, match="below 0") as refused:
        sum_crossings(of_periods([[(0, 1, -1.0)]]), np.array([1.0]), 1)
    assert refused.value.refusals[0].rows.tolist() == [0]


def test_periods_that_overlap_are_refused_or_united():
    subject, start, end = [0, 0, 0, 1], [0, 1, 5, 0], [6, 3, 9, 4]
    with pytest.raises(RefusedRowsError, match="overlaps") as refused:
        periods_of(subject, start, end)
    assert refused.value.refusals[0].rows.tolist() == [0, 1, 2]
    one = united(subject, start, end)
    assert list(zip(one.subject, one.start, one.end)) == [(0, 0, 9), (1, 0, 4)]
    assert one.row.tolist() == [0, 3]
    with pytest.raises(RefusedRowsError, match="another value") as refused:
        united(subject, start, end, [1, 2, 1, 1])
    assert refused.value.refusals[0].rows.tolist() == [0, 1]
    touching = united([0, 0], [0, 2], [2, 4], [1, 2])
    assert touching.value.tolist() == [1, 2], "touching ones of other values stand"
    with pytest.raises(RefusedRowsError, match="at or before its start"):
        periods_of([0], [2], [2])


def test_records_that_differ_at_one_time_are_refused_without_a_rule():
    records = records_of([0, 0, 0, 1, 1], [1, 1, 1, 2, 2], [5, 5, 7, 3, 3])
    with pytest.raises(RefusedRowsError) as refused:
        in_force(records, np.zeros(2))
    assert refused.value.refusals[0].rows.tolist() == [0, 1, 2]
    assert one_at_each_time(records_of([0, 0], [1, 1], [3, 3])).value.tolist() == [3]
    assert one_at_each_time(records_of([0, 0], [1, 1], [3, np.nan])).value.tolist() == [3]


def test_a_constant_value_is_that_of_all_records():
    assert constant_values(records_of([0, 0, 2], [1, 9, 4], [5, 5, 7]), 3).tolist()[::2] == [5, 7]
    with pytest.raises(RefusedRowsError) as refused:
        constant_values(records_of([0, 1, 0], [1, 9, 4], [5, 5, 7]), 2)
    assert refused.value.refusals[0].rows.tolist() == [0, 2]


def test_times_near_one_of_follow_up_become_it():
    f = np.array([0.1 + 0.2, 1.0, 1.0 + 4e-13])
    v = np.array([0.3, 1.0 + 5e-14, 1.0 + 3.6e-13, 7.0, 7.0 + 1e-13, -0.3, 0.0, np.inf, np.nan])
    found = joined_times(f, v)
    assert found[:3].tolist() == [0.1 + 0.2, 1.0, 1.0 + 4e-13]
    assert found[3] == found[4] == 7.0
    assert found[5:8].tolist() == [-0.3, 0.0, np.inf]
    assert np.isnan(found[8])
    halfway = joined_times(np.array([1.0, 1.0 + 2**-43]), np.array([1.0 + 2**-44]))
    assert halfway.tolist() == [1.0], "of two as near the earlier"


ROWS = st.lists(
    st.tuples(
        st.integers(0, 3),
        st.sampled_from([-np.inf, 0.0, 1.0, 2.5]),
        st.sampled_from([0.5, 2.0, 4.5]),
        st.integers(0, 2),
    ),
    min_size=1,
    max_size=5,
    unique_by=lambda row: row[0],
)


@given(ROWS, RECORDS, LIMITS, PERIODS)
@settings(max_examples=examples(300))
def test_rows_are_parted_where_a_value_changes_and_no_finer(rows, records, limit, lengths):
    rows = [(s, e, max(e, 0.0) + length, status) for s, e, length, status in rows]
    records += [[]] * (4 - len(records))
    periods = [side_by_side(own) for own in lengths] + [[]] * (4 - len(lengths))
    b = np.zeros(4)
    for s, entry, *_ in rows:
        b[s] = max(entry, 0)
    courses = (
        in_force(arrays(records, limit), b, SAME_TIME_RULES["last"]),
        gathered(arrays(records), b, SUMMARIES["count"]),
        period_on(of_periods(periods), b),
    )
    subject, entry, exit, status = (np.array(part) for part in zip(*rows))
    data = follow_up(exit, status, entry, subject=subject)
    made = split_where_changed(data, subject, courses)

    def values_at(s, t):
        return (
            literal.in_force(records[s], t, b[s], limit, rule="last"),
            literal.gathered("count", records[s], t, b[s]),
            literal.value_of_period([(f, e, 1) for f, e, _ in periods[s]], t, b[s], 0),
        )

    wanted = literal.pieces(rows, values_at, [k / 2 for k in range(-8, 60)])
    start = np.full(made.row.size, -np.inf) if made.data.entry is None else made.data.entry
    values = [tuple(None if np.isnan(v) else float(v) for v in each) for each in zip(*made.values)]
    found = zip(made.data.subject, start, made.data.exit, made.data.status, values)
    assert list(found) == wanted
    assert np.bincount(made.data.subject[made.data.last]).max() == 1


@pytest.fixture(scope="module")
def visits():
    """200 subjects with 5 visits each, and what the last one before a time held."""
    rng = np.random.default_rng(11)
    n, each = 200, 5
    exit = np.round(rng.exponential(8, n), 1) + 0.1
    status = (rng.random(n) < 0.7).astype(int)
    at = np.round(rng.uniform(-1, 9, (n, each)), 1)
    at[:, 0] = 0
    value = np.round(rng.normal(size=(n, each)), 2)
    return exit, status, at, value


def fitted(made):
    return fit(made.data, made.values[0][:, None])


def test_the_split_rows_give_the_fit_of_values_read_at_each_event_time(visits):
    """A plain transcription of the partial likelihood, each value read where it is needed."""
    exit, status, at, value = visits
    rule = SAME_TIME_RULES["last"]
    subject = np.repeat(np.arange(exit.size), at.shape[1])
    course = in_force(records_of(subject, at.ravel(), value.ravel()), np.zeros(exit.size), rule)
    made = split_where_changed(follow_up(exit, status), np.arange(exit.size), [course])
    found = fitted(made)
    beta = found.beta[0]
    score = curvature = 0.0
    for t in np.unique(exit[status == 1]):
        risk = np.flatnonzero(exit >= t)
        x = np.array(
            [literal.in_force(list(zip(at[i], value[i])), t, 0.0, rule="last") for i in risk]
        )
        dead = (exit[risk] == t) & (status[risk] == 1)
        r = np.exp(beta * x)
        for k in range(dead.sum()):  # Efron
            share = np.where(dead, 1 - k / dead.sum(), 1.0) * r
            mean = (share * x).sum() / share.sum()
            score += x[dead].mean() - mean
            curvature += (share * x * x).sum() / share.sum() - mean**2
    assert abs(score) < 1e-8 * curvature
    assert found.covariance[0, 0] == pytest.approx(1 / curvature, rel=1e-9)


def test_what_changes_nothing_leaves_the_rows_as_they_are(visits):
    exit, status, _, value = visits
    n, zero = exit.size, np.zeros(exit.size)
    data, first = follow_up(exit, status), np.arange(n)
    baseline = records_of(first, zero, value[:, 0])
    plain = split_where_changed(data, first, [in_force(baseline, zero)])
    assert np.array_equal(plain.data.exit, data.exit)
    repeated = records_of(
        np.tile(first, 3),
        np.concatenate([zero, exit / 2, exit]),
        np.concatenate([value[:, 0], value[:, 0], value[:, 1]]),
    )
    again = split_where_changed(data, first, [in_force(repeated, zero)])
    assert np.array_equal(again.data.exit, data.exit)
    assert fitted(again).beta[0] == fitted(plain).beta[0]


def test_a_record_at_an_event_time_explains_nothing_there():
    late = in_force(records_of([0, 0], [0.0, 3.0], [1.0, 9.0]), np.zeros(1))
    assert late.at(np.array([0, 0]), np.array([3.0, 3.0 + 1e-9])).tolist() == [1.0, 9.0]


def test_a_lag_reads_the_value_of_so_much_earlier(visits):
    exit, _, at, value = visits
    subject, zero = np.repeat(np.arange(exit.size), 5), np.zeros(exit.size)
    rule, lag = SAME_TIME_RULES["last"], 1.5
    plain = in_force(records_of(subject, at.ravel(), value.ravel()), zero, rule)
    lagged = in_force(
        records_of(subject, at.ravel() + lag, value.ravel(), own=at.ravel()), zero, rule
    )
    t = np.full(exit.size, 4.25)
    assert np.array_equal(
        lagged.at(np.arange(exit.size), t), plain.at(np.arange(exit.size), t - lag)
    )


def test_a_hundred_thousand_subjects_with_a_million_records_are_split_in_3_seconds():
    rng = np.random.default_rng(5)
    n, each = 100_000, 10
    exit, at = rng.exponential(5, n), rng.uniform(0, 8, n * each)
    subject = np.repeat(np.arange(n), each)
    data = follow_up(exit, rng.integers(0, 2, n))
    begun = time.perf_counter()
    made_at = joined_times(np.unique(data.exit), at)
    course = in_force(records_of(subject, made_at, rng.normal(size=n * each)), np.zeros(n))
    made = split_where_changed(data, np.arange(n), [course])
    assert time.perf_counter() - begun < 6, "3 s where nothing else runs; the bench measures it"
    assert made.row.size == n + int((made_at < np.repeat(data.exit, each)).sum())


LOGS = st.lists(st.lists(st.tuples(TIMES, st.integers(0, 2)), max_size=4), min_size=3, max_size=3)
FOLLOWED = st.lists(
    st.lists(
        st.tuples(
            st.sampled_from([0.0, 0.5, 1.0]), st.sampled_from([0.5, 1.5, 3.0]), st.integers(0, 2)
        ),
        min_size=1,
        max_size=3,
    ),
    min_size=3,
    max_size=3,
)


@given(FOLLOWED, LOGS, st.booleans())
@settings(max_examples=examples(300))
def test_the_first_record_that_counts_ends_the_follow_up(lengths, logs, own_first):
    rows, at = [], 0.0
    for s, own in enumerate(lengths):
        at = 0.0
        for k, (gap, length, status) in enumerate(own):
            entry = at + gap
            at = entry + length
            rows.append((s, entry, at, status if k == len(own) - 1 else 0))
    subject, entry, exit, status = (np.array(part) for part in zip(*rows))
    b = np.array([next(e for s, e, *_ in rows if s == one) for one in range(3)])
    data = follow_up(exit, status, entry, subject=subject)
    records = [(s, u, k) for s, own in enumerate(logs) for u, k in own]
    whose, time_, kind = (np.array([r[j] for r in records]) for j in range(3))
    found = first_events(
        data,
        subject,
        b,
        whose.astype(int),
        time_.astype(float),
        kind.astype(int),
        own_first=own_first,
    )
    for s in range(3):
        own = [(e, t, st_) for one, e, t, st_ in rows if one == s]
        wanted, prevalent, gap = literal.first_of(own, logs[s], b[s], own_first=own_first)
        kept = np.flatnonzero((subject == s) & found.kept)
        made = [
            (entry[k], found.exit[k], status[k], None if found.kind[k] < 0 else found.kind[k])
            for k in kept
        ]
        assert made == wanted
        assert (found.prevalent[s], found.in_gap[s]) == (prevalent, gap)

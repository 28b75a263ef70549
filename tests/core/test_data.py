"""Section 1: times that are one, rows that are refused, samples and streams."""

import math
from itertools import pairwise

import mpmath as mp
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from core.close import all_near, near
from core.literal import data as literal
from examples import examples
from hourglass.core.errors import NotEstimableError, RefusedRowsError
from hourglass.core.followup import follow_up
from hourglass.core.near_ties import NEAR_TIE, chained
from hourglass.core.sample_quantiles import sample_quantiles, value_opens
from hourglass.core.streams import (
    exponentials,
    normals,
    permutation,
    places,
    refuse_too_many,
    uniforms,
)
from hourglass.core.subjects import copies_of_subjects, each_copy

NEIGHBOURS = st.lists(
    st.tuples(st.sampled_from([0.0, 1e-300, 0.3, 1.0, 7.5e11]), st.integers(0, 12)),
    min_size=1,
    max_size=25,
)


@pytest.mark.parametrize("tolerance", [0.0, NEAR_TIE, 1e-9])
@settings(max_examples=examples(150), deadline=None)
@given(NEIGHBOURS)
def test_times_are_merged_as_going_up_one_by_one_would(tolerance, drawn):
    # Neighbours at multiples of 0.4 of the tolerance: chains, and clusters that end within a run.
    step = max(tolerance, NEAR_TIE) * 0.4
    times = np.array([base * (1 + k * step) for base, k in drawn])
    found = chained(times, tolerance)
    wanted = literal.near_ties(times.tolist(), tolerance)
    assert found.time.tolist() == wanted
    assert found.merged == len(set(times.tolist())) - len(set(wanted))
    left = sorted(set(wanted))
    assert found.close == sum(a > 0 and b - a <= 1e-9 * b for a, b in pairwise(left))
    assert (np.diff(times[found.order]) >= 0).all()


def test_a_sum_reached_by_two_ways_is_one_time_and_entries_are_merged_too():
    data = follow_up([0.1 + 0.2, 0.3, 5], [1, 1, 0], [-math.inf, -math.inf, 0.1 + 0.2])
    assert data.exit.tolist() == [0.3, 0.3, 5.0]
    assert data.entry.tolist() == [-math.inf, -math.inf, 0.3]
    assert data.merged == 1
    with pytest.raises(RefusedRowsError, match="entry is not before exit"):
        follow_up([0.1 + 0.2, 5], [1, 0], [0.3, 1])
    assert follow_up([1.0, 1.0 + 1e-10], [1, 1]).close == 1
    assert follow_up([1.0, 1.0 + 1e-10], [1, 1], near_tie=1e-9).merged == 1


@pytest.mark.parametrize(
    ("arguments", "reason", "rows"),
    [
        (([1, -2, 3], [0, 1, 1]), "negative", [1]),
        (([1, np.inf, np.nan], [0, 1, 1]), "finite", [1, 2]),
        (([1, 2, 3, 4], [0, -1, np.inf, 2.0**53]), "status", [1, 2, 3]),
        (([1, 2], [0, 0.5]), "status", [1]),
        (([1, 2], [0, 1], [0, 2]), "entry", [1]),
        (([1, 2], [0, 1], [np.nan, np.inf]), "entry", [0, 1]),
        (([1, 2, 3, 4, 5], [0] * 5, None, [1, 1.5, -1, np.inf, 2.0**53]), "count", [1, 2, 3, 4]),
        (([1, 2], [0, 1], None, [2.0**52, 2.0**52]), "add up", [0, 1]),
    ],
)
def test_unusable_rows_are_refused_by_name(arguments, reason, rows):
    with pytest.raises(RefusedRowsError) as refused:
        follow_up(*arguments)
    found = [r.rows.tolist() for r in refused.value.refusals if reason in r.reason]
    assert found == [rows]


def test_only_some_rows_keep_their_order():
    rng = np.random.default_rng(1)
    data = follow_up(rng.integers(1, 20, 40), rng.integers(0, 2, 40))
    part = data.only(rng.random(40) < 0.5)
    assert sorted(part.order.tolist()) == list(range(part.exit.size))
    assert (np.diff(part.exit[part.order]) >= 0).all()


@given(
    st.lists(st.tuples(st.integers(-5, 5), st.integers(1, 4)), min_size=1, max_size=20),
    st.floats(0, 1),
)
def test_sample_quantiles_interpolate_among_the_copies(rows, p):
    values, counts = (np.array(c) for c in zip(*rows))
    found = sample_quantiles(values.astype(float), counts, np.array([p]))
    repeated = np.repeat(values, counts).tolist()
    near(found[0], mp.mpf(literal.sample_quantile(repeated, p)), small=mp.mpf("1e-14"))


def test_interpolating_up_to_an_infinite_value_gives_it():
    values = np.array([1.0, math.inf, 2.0])
    shares = np.array([0, 0.5, 0.75, 1])
    assert sample_quantiles(values, np.ones(3, int), shares).tolist() == [1, 2, math.inf, math.inf]


def test_a_subject_s_neighbouring_rows_with_one_value_count_once():
    subject = [0, 0, 0, 1, 1, 2]
    data = follow_up([1, 2, 3, 1, 2, 1], [0] * 6, [0, 1, 2, 0, 1, 0], subject=subject)
    assert value_opens(data, np.array([5.0, 5, 7, 7, 5, 5])).tolist() == [1, 0, 1, 1, 1, 1]


def test_streams_are_made_of_raw_words_and_know_no_workers():
    raw = np.random.PCG64(np.random.SeedSequence(5, spawn_key=(2, 3))).random_raw(4).tolist()
    u = [(mp.mpf(word // 2**12) + mp.mpf(1) / 2) / 2**52 for word in raw]
    assert uniforms(4, 5, 2, 3).tolist() == [float(x) for x in u]
    assert uniforms(2, 5, 2, 3).tolist() == uniforms(4, 5, 2, 3)[:2].tolist()
    assert places(7, 4, 5, 2, 3).tolist() == [int(mp.floor(7 * x)) for x in u]
    all_near(exponentials(4, 5, 2, 3), [-mp.log(1 - x) for x in u])
    all_near([0.5 * math.erfc(-x / math.sqrt(2)) for x in normals(4, 5, 2, 3)], u, rel=1e-9)
    assert permutation(4, 5, 2, 3).tolist() == sorted(range(4), key=lambda k: u[k])
    refuse_too_many(2_000_000)
    with pytest.raises(NotEstimableError, match="drawn one by one"):
        refuse_too_many(2_000_001)


def test_copies_of_subjects_lie_side_by_side_in_order_of_first_appearance():
    data = follow_up([1, 1, 2, 3], [0, 1, 1, 0], [0, 0, 1, 2], [2, 3, 2, 2], subject=[9, 4, 9, 9])
    place, copies = copies_of_subjects(data)
    assert place.tolist() == [0, 1, 0, 0]
    assert copies.tolist() == [2, 3]
    rows, copy = each_copy(data)
    assert rows.tolist() == [0, 0, 1, 1, 1, 2, 2, 3, 3]
    assert copy.tolist() == [0, 1, 2, 3, 4, 0, 1, 0, 1]

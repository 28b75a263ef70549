"""Subjects with several rows, against loops over people; splitting a row in time changes no figure."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from core.literal import curves
from core.literal import data as literal
from examples import examples
from hourglass.core.curves.quantiles import median_follow_up
from hourglass.core.curves.survival import survival_curve
from hourglass.core.errors import RefusedRowsError
from hourglass.core.followup import follow_up
from hourglass.core.risk_table import at_risk_over_time, risk_table
from hourglass.core.subjects import count_subjects, delayed_entry

# A person: a count, and the lengths of periods, each with the gap before it, a status and a group.
counts = st.lists(
    st.tuples(
        st.integers(1, 3),
        st.lists(
            st.tuples(
                st.integers(0, 1),
                st.integers(1, 4),
                st.sampled_from([0, 0, 1, 2]),
                st.integers(0, 1),
            ),
            min_size=1,
            max_size=4,
        ),
    ),
    min_size=1,
    max_size=9,
)


def rows_of(persons):
    """(subject, entry, exit, status, group, count) of each period."""
    rows = []
    for who, (count, periods) in enumerate(persons):
        at = 0
        for gap, length, status, group in periods:
            rows.append((who, at + gap, at + gap + length, status, group, count))
            at += gap + length
    return rows


def data_of(rows):
    who, e, t, s, _, w = (np.array(column, dtype=float) for column in zip(*rows))
    return follow_up(t, s, e, w, who)


@settings(max_examples=examples(200), deadline=None)
@given(counts)
def test_people_are_counted_as_a_loop_over_them_counts(persons):
    rows = rows_of(persons)
    shuffled = np.random.default_rng(len(rows)).permutation(len(rows))
    rows = [rows[k] for k in shuffled]
    data, group = data_of(rows), np.array([r[4] for r in rows])
    last = {who: max(r[2] for r in rows if r[0] == who) for who in {r[0] for r in rows}}
    for g in (None, 0, 1):
        part = data if g is None else data.only(group == g)
        inside = [r for r in rows if g is None or r[4] == g]
        if not inside:
            continue
        found = count_subjects(part)
        ends = [r for r in inside if r[2] == last[r[0]]]
        heads = {r[0]: r[5] for r in inside}
        assert found.rows == sum(r[5] for r in inside)
        assert found.subjects == sum(heads.values())
        assert found.events == sum(r[5] for r in inside if r[3] == 1)
        assert found.censored == sum(r[5] for r in ends if r[3] == 0)
        assert found.competing == sum(r[5] for r in ends if r[3] == 2)
        assert found.moved_on == sum(
            w for who, w in heads.items() if who not in {r[0] for r in ends}
        )
        assert found.before_last == sum(r[5] for r in inside if r[3] == 1 and r[2] != last[r[0]])
        lines = [
            literal.Row(r[2], int(r[2] == last[r[0]] and r[3] == 0), r[1], r[5]) for r in inside
        ]
        followed = median_follow_up(part)
        assert (followed.time, followed.lower, followed.upper) == curves.quantile(
            curves.curve(lines), 0.5
        )
    assert delayed_entry(data) == any(period[0] for _, periods in persons for period in periods)


@settings(max_examples=examples(100), deadline=None)
@given(counts, st.integers(0, 10**6))
def test_splitting_a_row_in_time_changes_nothing_but_the_number_of_rows(persons, seed):
    rows = rows_of(persons)
    rng, split = np.random.default_rng(seed), []
    for who, e, t, s, g, w in rows:
        cut = e + (t - e) * float(rng.choice([0.25, 0.5]))
        split += (
            [(who, e, cut, 0, g, w), (who, cut, t, s, g, w)]
            if rng.random() < 0.6
            else [(who, e, t, s, g, w)]
        )
    one, other = data_of(rows), data_of(split)
    a, b = count_subjects(one), count_subjects(other)
    assert (a.subjects, a.events, a.censored, a.competing) == (
        b.subjects, b.events, b.censored, b.competing,
    )  # fmt: skip
    assert median_follow_up(one) == median_follow_up(other)
    assert survival_curve(risk_table(one)).survival.tolist() == (
        survival_curve(risk_table(other)).survival.tolist()
    )
    assert delayed_entry(one) == delayed_entry(other)


def test_those_who_enter_at_0_are_at_risk_at_0_in_a_table():
    data = follow_up([2, 5, 4], [0, 1, 1], [0, 2, 0], subject=[1, 1, 2])
    followed = at_risk_over_time(data)
    assert (followed.time.tolist(), followed.number.tolist()) == ([0, 2, 4, 5], [2, 2, 2, 1])


def test_rows_of_one_subject_that_overlap_or_differ_in_count_are_refused():
    with pytest.raises(RefusedRowsError) as refused:
        follow_up([3, 5, 9, 4], [0, 1, 1, 1], [0, 2, 5, 0], subject=[7, 7, 7, 8])
    assert [(r.reason, r.rows.tolist()) for r in refused.value.refusals] == [
        ("begins before an earlier row of the same subject ends", [1])
    ]
    with pytest.raises(RefusedRowsError, match="differs in count"):
        follow_up([3, 5], [0, 1], [0, 3], [1, 2], [7, 7])
    # A sum reached in two ways is one time, so these rows only touch.
    follow_up([0.1 + 0.2, 0.9], [0, 1], [0, 0.3], subject=[7, 7])

"""What each part of the follow-up statement does to times, ends and rows."""

from datetime import date

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from examples import examples
from hourglass.analysis.check.statement import CheckStatement
from hourglass.analysis.compare.statement import CompareStatement
from hourglass.analysis.estimate.statement import EstimateStatement
from hourglass.analysis.model.statement import ModelStatement
from hourglass.analysis.model.terms.category import CategoryTerm
from hourglass.analysis.model.terms.number import NumberTerm
from hourglass.analysis.prepare.describe import describe
from hourglass.cohort.derive import derive
from hourglass.cohort.followup import Cohort, form_cohort
from hourglass.cohort.shape import shaped
from hourglass.cohort.statement import BetweenDates, DatedEvent, FirstOf, FollowUpStatement
from making import MEANINGS, cohort, table, timed
from stages import check, compare, estimate, model

DATED = table(
    "a,b,x,y,s\n"
    "2020-01-01,2020-02-01,2020-01-20,,1\n"
    "2020-01-01,2020-01-11,,2020-01-05,0\n"
    "2020-01-10,2020-03-01,2020-02-10,2020-02-10,2\n"
    "2020-01-10,2020-01-10,,,1\n"
)  # fmt: skip


def dated(**changes):
    start = FollowUpStatement(
        clock=BetweenDates(start="a", end="b"), unit="days", outcome="s", meanings=MEANINGS
    )
    return start.model_copy(update=changes)


def ended(rows, statement):
    formed = form_cohort(rows, statement)
    assert isinstance(formed, Cohort), formed
    data = formed.follow_up
    return [(float(t), int(s)) for t, s in zip(data.exit, data.status, strict=True)]


def test_follow_up_is_cut_at_the_closing_date_and_what_came_later_is_not_counted():
    assert ended(DATED, dated(closing_date=date(2020, 1, 31))) == [
        (30, 0),
        (10, 0),
        (21, 0),
        (0, 1),
    ]
    assert ended(DATED, dated(closing_date=date(2020, 2, 1)))[0] == (31, 1), "that day still counts"


def test_the_earliest_of_several_events_ends_follow_up():
    clock = FirstOf(
        start="a",
        events=(DatedEvent(column="x"), DatedEvent(column="y", meaning="competing", name="left")),
        last_contact="b",
    )
    assert ended(DATED, dated(clock=clock)) == [(19, 1), (4, 2), (31, 1), (0, 0)], "ties: the first"
    formed = form_cohort(DATED, dated(clock=clock))
    assert formed.competing == ("left",)
    (block,) = form_cohort(DATED, dated(clock=FirstOf(start="a", last_contact="b")))
    assert block.slot == "event"


def test_whoever_has_a_date_of_it_had_the_event_or_everyone():
    assert [s for _, s in ended(DATED, dated(ended="date", event_date="x"))] == [1, 0, 1, 0]
    assert [s for _, s in ended(DATED, dated(ended="everyone"))] == [1, 1, 1, 1]
    (block,) = form_cohort(DATED, dated(ended="date"))
    assert block.slot == "outcome"


def test_zero_times_are_kept_or_moved():
    assert ended(DATED, dated())[3] == (0, 1)
    assert ended(DATED, dated(zero_moved_to=0.5))[3] == (0.5, 1)


def test_nobody_is_followed_beyond_the_longest_follow_up():
    rows = "t,s\n3,1\n5,1\n7,1\n"
    data = cohort(rows, longest=5).follow_up
    assert (data.exit.tolist(), data.status.tolist()) == ([3, 5, 5], [1, 1, 0])


def test_a_landmark_keeps_those_still_followed_and_sets_the_clock_back():
    rows = table("t,s,e\n3,1,\n5,1,\n5.5,0,2\n9,1,\n12,1,6\n")
    statement = timed(landmark=5, late_entry="e")
    formed = form_cohort(rows, statement)
    assert formed.follow_up.exit.tolist() == [0.5, 4]
    assert formed.follow_up.entry is None
    lost = shaped(derive(rows, statement), statement).lost
    assert [(line.label, line.rows) for line in lost] == [
        ("no longer at risk at 5 months", 2),
        ("not yet at risk at 5 months", 1),
    ]
    (block,) = form_cohort(rows, timed(landmark=5, longest=4))
    assert "nobody would be left" in block.sentence


@pytest.mark.parametrize("bad", ["", "-1", "1.5"])
def test_a_count_that_is_none_blocks_and_names_the_row(bad):
    rows = table(f"t,s,n\n1,1,2\n2,0,{bad}\n")
    (block,) = form_cohort(rows, timed(count="n"))
    assert block.rows == (2,)


counted = st.lists(
    st.tuples(
        st.integers(0, 12), st.sampled_from([0, 1, 1, 2]), st.integers(0, 4),
        st.sampled_from("ab"), st.integers(0, 9),
    ),
    min_size=6,
    max_size=25,
)  # fmt: skip


def figures(rows, **changes):
    """Every figure of every stage, as it is answered."""
    formed = cohort(rows, **changes)
    times = EstimateStatement(times=(2, 5), confidence=0.9)
    terms = (CategoryTerm(column="g", reference="a"), NumberTerm(column="x"))
    stated = ModelStatement(terms=terms)
    text = [
        estimate(formed, times),
        compare(formed, CompareStatement(by="g"), times),
        model(formed, stated),
        check(formed, stated, CheckStatement()),
        describe(formed, "g"),
    ]
    return [one.model_dump(mode="json") for one in text]


def dots(points):
    """Where there is a dot: those of copies lie apart by rounding at most."""
    places = [p for p in zip(points["x"], points["y"], strict=True) if None not in p]
    kept = sorted(places)[:1]
    for place in sorted(places):
        if place != pytest.approx(kept[-1], rel=1e-7, abs=1e-9):
            kept.append(place)
    return [list(place) for place in kept]


def close(a, b, where=""):
    if isinstance(a, dict):
        # How many rows a model was made from is shown as rows; sentences are the same. Dots of copies
        # lie on one another, and stand for other rows.
        if a.get("kind") == "points":
            a, b = ({"dots": dots(one)} for one in (a, b))
        for key in a:
            close(a[key], b[key], f"{where}.{key}")
    elif isinstance(a, list):
        assert len(a) == len(b), where
        for k, (x, y) in enumerate(zip(a, b, strict=True)):
            close(x, y, f"{where}[{k}]")
    elif isinstance(a, float) or isinstance(b, float):
        assert (a is None) == (b is None), where
        if a is not None:
            assert a == pytest.approx(b, rel=1e-7, abs=1e-9), where
    else:
        assert a == b, where


@settings(max_examples=examples(25), deadline=None)
@given(counted)
def test_a_count_gives_every_figure_that_so_many_rows_would_give(rows):
    fixed = [
        (1, 1, 1, "a", 2),
        (3, 1, 2, "b", 5),
        (4, 0, 1, "a", 7),
        (6, 1, 1, "b", 1),
        (7, 1, 1, "a", 3),
    ]
    rows = fixed + rows
    head = "t,s,g,x,n\n"
    with_counts = head + "".join(f"{t},{s},{g},{x},{n}\n" for t, s, n, g, x in rows)
    repeated = head + "".join(f"{t},{s},{g},{x},1\n" * n for t, s, n, g, x in rows)
    close(figures(with_counts, count="n"), figures(repeated, count="n"))


@settings(max_examples=examples(40), deadline=None)
@given(st.lists(st.tuples(st.integers(0, 4000), st.integers(0, 1)), min_size=2, max_size=30))
def test_a_unit_changes_no_rank_and_no_test(rows):
    lines = [
        f"2000-01-01,{np.datetime64('2000-01-01') + t},{s},{'ab'[k % 2]}\n"
        for k, (t, s) in enumerate(rows)
    ]
    made = table("a,b,s,g\n" + "".join(lines))
    ranks, tests = [], []
    for unit in ("hours", "days", "weeks", "months", "years"):
        formed = form_cohort(made, dated(unit=unit))
        ranks.append(np.unique(formed.follow_up.exit, return_inverse=True)[1].tolist())
        found = compare(formed, CompareStatement(by="g"))
        tests.append(None if found.test is None else found.test.p)
    assert all(r == ranks[0] for r in ranks)
    assert all(
        p == (None if tests[0] is None else pytest.approx(tests[0], rel=1e-9)) for p in tests
    )

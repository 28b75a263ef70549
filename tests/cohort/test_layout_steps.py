"""Steps that make another layout, against slow transcriptions of what they are said to do."""

from hypothesis import given, settings
from hypothesis import strategies as st

from hourglass.cohort.followup import form_cohort
from hourglass.cohort.steps.apply import apply_steps
from hourglass.cohort.steps.layouts import (
    FirstBySubject,
    GatherHappenings,
    SpreadTallies,
    StackGroups,
)
from hourglass.core.risk_table import risk_table
from making import MEANINGS, table, timed


def made(rows, step):
    now, (effect,) = apply_steps(rows, [step])
    assert effect.broken == ""
    return now


def lines(rows):
    """A table as a list of dictionaries of text."""
    return [{c.name: c.cell(k) for c in rows.columns} for k in range(rows.size)]


happenings = st.lists(
    st.tuples(
        st.sampled_from(["", "a", "b", "c", "d"]),
        st.one_of(st.just(""), st.dates().map(str)),
        st.sampled_from(["", "start", "visit", "end"]),
    ),
    min_size=1,
    max_size=25,
)


@settings(max_examples=120, deadline=None)
@given(happenings)
def test_happenings_are_gathered(rows):
    rows = [("a", "2020-01-01", "start"), ("b", "2020-01-02", "visit"), *rows]
    text = "who,when,what,town\n" + "".join(
        f"{who},{when},{what},{'x' if who == 'a' else 'y'}\n" for who, when, what in rows
    )
    found = lines(made(table(text), GatherHappenings(subject="who", date="when", happening="what")))
    usable = [r for r in rows if r[0] and r[1]]
    people = list(dict.fromkeys(r[0] for r in usable))
    assert sorted(line["who"] for line in found) == sorted(people)
    for line in found:
        own = [(when, what) for who, when, what in usable if who == line["who"]]
        assert line["first seen"] == min(when for when, _ in own)
        assert line["last seen"] == max(when for when, _ in own)
        for kind in {what for _, _, what in usable if what}:
            dates = [when for when, what in own if what == kind]
            assert line[f"first {kind}"] == (min(dates) if dates else "")
        assert line["town"] == ("x" if line["who"] == "a" else "y"), "what never varies stays"


@settings(max_examples=100, deadline=None)
@given(happenings)
def test_the_first_date_of_each_subject_stands_beside_all_its_rows(rows):
    rows = [("a", "2020-01-01", "start"), *rows]
    text = "who,when,what\n" + "".join(",".join(r) + "\n" for r in rows)
    found = made(table(text), FirstBySubject(subject="who", column="when", into="since"))
    for (who, _, _), line in zip(rows, lines(found), strict=True):
        dates = [when for other, when, _ in rows if other == who and when]
        assert line["since"] == (min(dates) if who and dates else "")


tallies = st.lists(
    st.tuples(st.integers(1, 9), st.integers(0, 5), st.integers(0, 5), st.sampled_from("xy")),
    min_size=1,
    max_size=12,
)


@settings(max_examples=100, deadline=None)
@given(tallies)
def test_tallies_give_the_numbers_at_risk_that_one_row_each_would(rows):
    rows = [(3, 1, 2, "x"), *rows]
    text = "t,died,left,arm\n" + "".join(f"{t},{d},{w},{g}\n" for t, d, w, g in rows)
    spread = made(table(text), SpreadTallies(tallies={"died": "1", "left": "0"}))
    statement = timed(outcome="ended", count="how many", meanings=MEANINGS)
    found = risk_table(form_cohort(spread, statement).follow_up)
    people = [(t, 1) for t, d, _, _ in rows for _ in range(d)]
    people += [(t, 0) for t, _, w, _ in rows for _ in range(w)]
    for t, n, d in zip(found.time, found.at_risk, found.events, strict=True):
        assert n == sum(1 for time, _ in people if time >= t)
        assert d == people.count((t, 1))
    arms = {"x": 0, "y": 0}
    for line in lines(spread):
        arms[line["arm"]] += int(line["how many"])
    assert arms == {g: sum(d + w for _, d, w, arm in rows if arm == g) for g in "xy"}


@settings(max_examples=100, deadline=None)
@given(
    st.lists(
        st.tuples(
            st.integers(0, 9), st.sampled_from(["", "0", "1"]), st.sampled_from(["", "0", "1"])
        ),
        min_size=1,
        max_size=15,
    )
)
def test_status_columns_are_stacked(rows):
    rows = [(1, "0", ""), (2, "", "1"), *rows]
    text = "t,old,new\n" + "".join(f"{t},{a},{b}\n" for t, a, b in rows)
    found = lines(made(table(text), StackGroups(groups={"old": "A", "new": "B"})))
    wanted = [{"t": str(t), "status": a, "group": "A"} for t, a, _ in rows if a]
    wanted += [{"t": str(t), "status": b, "group": "B"} for t, _, b in rows if b]
    assert found == wanted


def test_names_that_are_taken_are_not_taken_again():
    for step, words in (
        (SpreadTallies(tallies={"n": "event"}), "“ended”"),
        (StackGroups(groups={"n": "a"}), "“status”"),
        (FirstBySubject(subject="n", column="d", into="ended"), "“ended”"),
    ):
        rows = table("n,ended,status,d\n1,2,3,2020-01-01\n")
        _, (effect,) = apply_steps(rows, [step])
        assert words in effect.broken

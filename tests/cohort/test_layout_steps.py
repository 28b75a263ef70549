"""Steps that make another layout, against slow transcriptions of their definitions."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from examples import examples
from hourglass.cohort.condition import Clause, Condition
from hourglass.cohort.findings.find import find
from hourglass.cohort.findings.finding import steps_for
from hourglass.cohort.followup import form_cohort
from hourglass.cohort.layouts import recognise
from hourglass.cohort.proposal.propose import propose
from hourglass.cohort.steps.apply import apply_steps
from hourglass.cohort.steps.cells import CorrectCell
from hourglass.cohort.steps.layouts import FirstBySubject, GatherRecords, StackGroups
from hourglass.cohort.steps.rows import SetAsideWhere
from hourglass.cohort.steps.spread_counts import STILL, UNSTATED, SpreadCounts
from hourglass.core.curves.quantiles import quantile
from hourglass.core.curves.survival import survival_curve
from hourglass.core.risk_table import risk_table
from making import MEANINGS, table, timed


def made(rows, *steps):
    now, effects = apply_steps(rows, steps)
    assert [effect.broken for effect in effects if effect.broken] == []
    return now


def lines(rows):
    """A table as a list of dictionaries of text."""
    return [{c.name: c.cell(k) for c in rows.columns} for k in range(rows.size)]


records = st.lists(
    st.tuples(
        st.sampled_from(["", "a", "b", "c", "d"]),
        st.one_of(st.just(""), st.dates().map(str)),
        st.sampled_from(["", "start", "visit", "end"]),
    ),
    min_size=1,
    max_size=25,
)


@settings(max_examples=examples(120), deadline=None)
@given(records)
def test_dated_records_are_gathered(rows):
    rows = [("a", "2020-01-01", "start"), ("b", "2020-01-02", "visit"), *rows]
    text = "who,when,what,town\n" + "".join(
        f"{who},{when},{what},{'x' if who == 'a' else 'y'}\n" for who, when, what in rows
    )
    found = lines(made(table(text), GatherRecords(subject="who", date="when", record="what")))
    usable = [r for r in rows if r[0] and r[1]]
    subjects = list(dict.fromkeys(r[0] for r in rows if r[0]))
    assert [line["who"] for line in found] == subjects, "a subject without a date stays too"
    for line in found:
        own = [(when, what) for who, when, what in usable if who == line["who"]]
        assert line["first seen"] == min((when for when, _ in own), default="")
        assert line["last seen"] == max((when for when, _ in own), default="")
        for kind in {what for _, _, what in usable if what}:
            dates = [when for when, what in own if what == kind]
            assert line[f"first {kind}"] == (min(dates) if dates else "")
        assert line["town"] == ("x" if line["who"] == "a" else "y"), "what never varies stays"


def test_what_varies_within_a_subject_is_not_kept_of_dated_records():
    rows = [("a", "x", "u"), ("a", "y", "u"), ("b", "x", "u"), ("b", "x", "")]
    text = "who,when,what,town,house\n" + "".join(
        f"{who},2020-01-0{k + 1},visit,{town},{house}\n"
        for k, (who, town, house) in enumerate(rows)
    )
    found = made(table(text), GatherRecords(subject="who", date="when", record="what"))
    assert [c.name for c in found.columns if c.name in ("town", "house")] == ["house"]


@settings(max_examples=examples(100), deadline=None)
@given(records)
def test_the_first_date_of_each_subject_stands_beside_all_its_rows(rows):
    rows = [("a", "2020-01-01", "start"), *rows]
    text = "who,when,what\n" + "".join(",".join(r) + "\n" for r in rows)
    found = made(table(text), FirstBySubject(subject="who", column="when", into="since"))
    for (who, _, _), line in zip(rows, lines(found), strict=True):
        dates = [when for other, when, _ in rows if other == who and when]
        assert line["since"] == (min(dates) if who and dates else "")


counts = st.lists(
    st.tuples(st.integers(1, 9), st.integers(0, 5), st.integers(0, 5), st.sampled_from("xy")),
    min_size=1,
    max_size=12,
)


@settings(max_examples=examples(100), deadline=None)
@given(counts)
def test_counts_give_the_numbers_at_risk_that_one_row_each_would(rows):
    rows = [(3, 1, 2, "x"), *rows]
    text = "t,died,left,arm\n" + "".join(f"{t},{d},{w},{g}\n" for t, d, w, g in rows)
    nobody = Condition(clauses=(Clause(column="ended", test="is", values=(STILL,)),))
    spread = made(
        table(text),
        SpreadCounts(counts={"died": "1", "left": "0"}, time="t"),
        SetAsideWhere(condition=nobody),
    )
    statement = timed(outcome="ended", count="how many", meanings=MEANINGS)
    found = risk_table(form_cohort(spread, statement).follow_up)
    subjects = [(t, 1) for t, d, _, _ in rows for _ in range(d)]
    subjects += [(t, 0) for t, _, w, _ in rows for _ in range(w)]
    for t, n, d in zip(found.time, found.at_risk, found.events, strict=True):
        assert n == sum(1 for time, _ in subjects if time >= t)
        assert d == subjects.count((t, 1))
    arms = {"x": 0, "y": 0}
    for line in lines(spread):
        arms[line["arm"]] += int(line["how many"])
    assert arms == {g: sum(d + w for _, d, w, arm in rows if arm == g) for g in "xy"}


@settings(max_examples=examples(100), deadline=None)
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
    wanted += [{"t": str(t), "status": "", "group": ""} for t, a, b in rows if not a and not b]
    assert found == wanted


@settings(max_examples=examples(150), deadline=None)
@given(
    st.lists(
        st.tuples(
            st.sampled_from("xy"),
            st.integers(0, 9),
            st.integers(0, 6),
            st.integers(0, 4),
            st.integers(0, 3),
        ),
        min_size=1,
        max_size=10,
        unique_by=lambda row: row[:2],
    ),
    st.sampled_from(["before", "after"]),
)
def test_everybody_at_risk_is_in_some_row(rows, counted):
    # At each time some die, some leave, and some go missing without a count.
    rows = sorted([("x", 10, 3, 1, 2), *rows])
    left = {arm: sum(sum(r[2:]) for r in rows if r[0] == arm) + 7 for arm in "xy"}
    start, lines_, missing = dict(left), [], {"x": 0, "y": 0}
    for k, (arm, t, died, gone, lost) in enumerate(rows):
        risk = left[arm] - (died + gone if counted == "after" else 0)
        last = k + 1 == len(rows) or rows[k + 1][0] != arm
        left[arm] -= died + gone + (0 if last else lost)
        missing[arm] += 0 if last else lost
        lines_.append(f"{arm},{t},{died},{gone},{risk}\n")
    step = SpreadCounts(
        counts={"died": "1", "left": "0"}, time="t", at_risk="n", counted=counted, within=("arm",)
    )
    spread = lines(made(table("arm,t,died,left,n\n" + "".join(lines_)), step))
    for arm in {r[0] for r in rows}:
        of = {}
        for line in spread:
            if line["arm"] == arm:
                of[line["ended"]] = of.get(line["ended"], 0) + int(line["how many"])
        assert sum(of.values()) == start[arm]
        assert (of.get(STILL, 0), of.get(UNSTATED, 0)) == (left[arm], missing[arm])


@pytest.mark.parametrize("name", ["n", "num", "how many", "Anzahl", "frequency"])
def test_a_column_of_counts_beside_an_outcome_is_recognised(name):
    text = "".join(f"{k * 3 + 1},{k % 4 + 2},{k % 2}\n" for k in range(20))
    guess = recognise(table(f"weeks,{name},died\n{text}"))[0]
    assert (guess.layout, dict(guess.changes)) == ("counts", {"count": name})


@pytest.mark.parametrize(("name", "counted"), [("still running", "after"), ("at risk", "before")])
def test_numbers_at_risk_in_the_last_line_alone_are_enough(name, counted):
    rows = table(f"weeks,failed,withdrawn,{name}\n1,3,1,\n2,0,2,\n3,5,0,\n4,2,6,30\n")
    guess = recognise(rows)[0]
    assert guess.layout == "counts at times"
    assert "filled in at the last time alone" in guess.reason
    cohort = form_cohort(made(rows, *guess.steps), guess.change(propose(rows)))
    left = 30 if counted == "after" else 30 - 8
    assert cohort.follow_up.size == 19 + left


def test_without_a_column_of_those_at_risk_a_person_is_a_question():
    rows = table("weeks,failed,withdrawn\n1,3,1\n2,0,2\n3,5,0\n4,2,6\n")
    guess = recognise(rows)[0]
    now = made(rows, *guess.steps)
    statement = guess.change(propose(rows))
    assert isinstance(form_cohort(now, statement), tuple), "nothing is shown before it is stated"
    stated = next(f for f in find(now, statement) if f.key == "still at risk at the end")
    assert "how many were at risk" in stated.title
    row = int(stated.rows[0])
    text, _ = apply_steps(now, [CorrectCell(row=row, column="how many", value="30")])
    cohort = form_cohort(text, statement)
    assert (
        cohort.follow_up.size,
        quantile(survival_curve(risk_table(cohort.follow_up)), 0.5).time,
    ) == (49, None)
    nobody, _ = apply_steps(now, steps_for(stated, "set aside"))
    assert form_cohort(nobody, statement).follow_up.size == 19


def test_a_log_without_a_word_for_the_start_requests_when_the_clock_starts():
    rows = table(
        "p,date,event\n"
        + "".join(
            f"{p},2020-0{m},{what}\n"
            for p in "abcd"
            for m, what in (("1-05", "visit"), ("6-01", "death"))
        )
    )
    guess = recognise(rows)[0]
    assert guess.layout == "dated records"
    blocks = form_cohort(made(rows, *guess.steps), guess.change(propose(rows)))
    assert [(b.slot, b.sentence) for b in blocks] == [
        ("start", "Choose the column that holds the start.")
    ]


SHAPES = {
    "counts at times": "week,died,lost,arm\n",
    "status": "days,dead_A,dead_B,note\n",
    "log": "who,when,what,site\n",
}
cell = {
    "counts at times": st.tuples(
        st.sampled_from(["1", "2", "3", "4", ""]), st.sampled_from(["", "0", "2", "5"]),
        st.sampled_from(["", "0", "3"]), st.sampled_from(["p", "q", ""]),
    ),
    "status": st.tuples(
        st.sampled_from(["1", "2", "9"]), st.sampled_from(["", "0", "1"]),
        st.sampled_from(["", "0", "1"]), st.sampled_from(["", "n"]),
    ),
    "log": st.tuples(
        st.sampled_from(["", "a", "b", "c"]), st.sampled_from(["", "2020-01-01", "2020-03-05"]),
        st.sampled_from(["", "enrolled", "death", "visit"]), st.sampled_from(["", "s", "t"]),
    ),
}  # fmt: skip
FILL = {
    "counts at times": "1,5,3,p\n2,4,2,p\n",
    "status": "5,1,,\n6,0,,\n7,,1,\n8,,0,\n",
    "log": "".join(f"{p},2020-0{m}-01,{w}\n".replace("\n", ",s\n") for p in "def" for m, w in
                   ((1, "enrolled"), (5, "death"))),
}  # fmt: skip


@settings(max_examples=examples(200), deadline=None)
@given(
    st.sampled_from(list(SHAPES)).flatmap(
        lambda shape: st.tuples(st.just(shape), st.lists(cell[shape], max_size=12))
    )
)
def test_no_layout_loses_a_row_or_a_subject_that_no_line_names(given_rows):
    shape, extra = given_rows
    rows = table(SHAPES[shape] + FILL[shape] + "".join(",".join(r) + "\n" for r in extra))
    for guess in recognise(rows):
        now, effects = apply_steps(rows, guess.steps)
        assert not any(e.broken for e in effects)
        named = sum(left.rows for e in effects for left in e.left_out)
        before, after = lines(rows), lines(now)
        match guess.layout:
            case "counts at times":
                shown = [r for r in before if (r["died"], r["lost"]) not in (("0", "0"),)]
                for r in shown:
                    same = [a for a in after if (a["week"], a["arm"]) == (r["week"], r["arm"])]
                    assert same, "every row with a count, or without one, is there"
                assert named == sum(
                    not any((a["week"], a["arm"]) == (r["week"], r["arm"]) for a in after)
                    for r in before
                )
                subjects = sum(int(r[k] or 0) for r in before for k in ("died", "lost"))
                assert sum(int(a["how many"] or 0) for a in after) == subjects
            case "a status for each group":
                statuses = sum(max(1, bool(r["dead_A"]) + bool(r["dead_B"])) for r in before)
                assert (len(after), named) == (statuses, 0)
            case "dated records":
                assert {a["who"] for a in after} == {r["who"] for r in before} - {""}
                undated = {r["who"] for r in before} - {r["who"] for r in before if r["when"]}
                lost = [
                    r for r in before if not r["who"] or (not r["when"] and r["who"] not in undated)
                ]
                assert named == len(lost)
            case _:
                assert len(after) == len(before) or guess.steps


def test_names_that_are_taken_are_not_taken_again():
    for step, words in (
        (SpreadCounts(counts={"n": "event"}), "“ended”"),
        (StackGroups(groups={"n": "a"}), "“status”"),
        (FirstBySubject(subject="n", column="d", into="ended"), "“ended”"),
    ):
        rows = table("n,ended,status,d\n1,2,3,2020-01-01\n")
        _, (effect,) = apply_steps(rows, [step])
        assert words in effect.broken


def test_counts_without_a_column_of_times_are_not_spread_at_all():
    step = SpreadCounts(counts={"died": "event", "lost": "censored"})
    rows = table("week,died,lost\n1,2,3\n2,4,0\n")
    after, (effect,) = apply_steps(rows, [step])
    assert "name the column of times" in effect.broken
    assert after is rows

import pytest

from hourglass.cohort.findings.find import find
from hourglass.cohort.findings.finding import steps_for
from hourglass.cohort.followup import Cohort, form_cohort
from hourglass.cohort.statement import CodeMeaning
from hourglass.cohort.steps.apply import apply_steps
from hourglass.cohort.steps.cells import CorrectCell
from hourglass.cohort.steps.rows import SetAside
from making import demo_follow_up, demo_table, table, timed


def keys(text, **changes):
    return {f.key: f for f in find(table(text), timed(**changes))}


def test_the_planted_faults_are_all_found_and_nothing_else():
    found = {f.key: f for f in find(demo_table("larkmoor"), demo_follow_up("larkmoor"))}
    (twice,) = [k for k in found if k.startswith("entered twice")]
    counts = {k: len(f.rows) for k, f in found.items()}
    assert counts == {
        "end before start": 6,
        "blank outcome": 3,
        twice: 2,
        "spelled in several ways: drops": 12,
        "extreme: age": 1,
        "extreme: donor_cells": 1,
        "missing: donor_cells": 17,
    }


def test_deciding_the_faults_leaves_a_cohort_and_no_finding():
    statement, now = demo_follow_up("larkmoor"), demo_table("larkmoor")
    while found := [f for f in find(now, statement) if not f.key.startswith("missing")]:
        finding = found[0]
        choice = "respell" if finding.choice("respell") else "set aside"
        now, _ = apply_steps(now, steps_for(finding, choice, ()))
    formed = form_cohort(now, statement)
    assert isinstance(formed, Cohort)
    assert formed.follow_up.size == 612 - 6 - 3 - 1 - 1 - 1


def test_of_rows_entered_twice_the_first_stays():
    finding = keys("id,t,s\na,1,1\nb,2,0\na,3,0\na,4,1\n", subject="id")["entered twice: id a"]
    assert finding.rows.tolist() == [1, 3, 4]
    (step,) = steps_for(finding, "set aside", ())
    assert isinstance(step, SetAside)
    assert step.rows == (3, 4)


def test_numbers_as_names_are_found_twice_too_and_missing_ones_are_not():
    found = keys("id,t,s\n7,1,1\n7,2,0\n,3,0\n,3,0\n", subject="id")
    assert found["entered twice: id 7"].rows.tolist() == [1, 2]
    assert sum(k.startswith("entered") for k in found) == 1


def test_spellings_differ_by_spaces_and_capitals_only():
    finding = keys("t,s,w\n1,1,Red\n2,0,red\n3,0,red\n4,0, red  wine\n5,1,Red wine\n")[
        "spelled in several ways: w"
    ]
    (step,) = steps_for(finding, "respell")
    assert step.spelling == {"Red": "red", " red  wine": "red wine", "Red wine": "red wine"}
    now, _ = apply_steps(
        table("w\nRed\nred\nred\n red  wine\nRed wine\n"), steps_for(finding, "respell", ())
    )
    assert now.column("w").counts() == {"red": 3, "red wine": 2}


def test_a_blank_with_a_meaning_is_no_finding():
    meanings = {"": CodeMeaning(meaning="censored"), "1": CodeMeaning(meaning="event")}
    assert "blank outcome" in keys("t,s\n1,1\n2,\n")
    assert "blank outcome" not in keys("t,s\n1,1\n2,\n", meanings=meanings)


@pytest.mark.parametrize(
    ("values", "extreme"),
    [
        ([*range(40), 400], True),
        ([*range(40), 60], False),
        ([1] * 30 + [9], False),  # hardly any variety: no scale to measure by
        ([2**k for k in range(30)], False),  # a long tail is a shape, not a fault
    ],
)
def test_extreme_numbers(values, extreme):
    found = keys("t,s,x\n" + "\n".join(f"1,1,{v}" for v in values) + "\n")
    assert ("extreme: x" in found) == extreme


def test_rows_without_time_and_late_rows_are_found():
    found = keys("t,s,e\n1,1,\n,0,\n3,0,3\n-1,0,\n", late_entry="e")
    assert found["no time"].rows == (2,)
    assert found["entry after end"].rows == (3,)
    assert found["end before start"].title == "1 row has a negative time"
    assert found["end before start"].choice("swap") is None


def test_missing_values_are_shown_by_column_but_not_for_the_clock_and_outcome():
    found = keys("t,s,x,empty\n1,1,5,\n,0,,\n3,,6,\n")
    assert found["missing: x"].rows == (2,)
    assert not any(k in found for k in ("missing: t", "missing: s", "missing: empty"))


def test_a_correction_is_carried_out_as_given():
    finding = keys("t,s\n1,1\n-2,0\n")["end before start"]
    fix = CorrectCell(row=2, column="t", value="2")
    assert steps_for(finding, "correct", (fix,)) == [fix]
    assert steps_for(finding, "keep", ()) == []


def test_hostile_text_is_only_text():
    found = keys('t,s,"<img src=x onerror=alert(1)>"\n1,1,\n2,0,5\n')
    assert "missing: <img src=x onerror=alert(1)>" in found

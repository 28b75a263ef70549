"""What single steps make of a few rows, cell by cell, with their words about it."""

from dataclasses import replace

import pytest

from hourglass.cohort.steps.apply import apply_steps
from hourglass.cohort.steps.cells import MarkMissing
from hourglass.cohort.steps.filling import FillDown, FirstKnown
from hourglass.cohort.steps.layouts import FirstBySubject, GatherRecords, StackGroups
from hourglass.cohort.steps.rows import SetAsideRepeats
from hourglass.cohort.steps.text import EditText
from hourglass.cohort.steps.types import ReadAsDates, ReadAsNumbers
from hourglass.cohort.steps.units import TakeUnitApart
from hourglass.cohort.steps.visits import KeepOneVisit, StackVisits
from hourglass.cohort.steps.written_times import TakeEndsApart, TakeMarkApart
from making import cells, table


def made(text, step):
    """The columns that a step makes of some rows, and its words about them."""
    after, (effect,) = apply_steps(table(text), [step])
    assert not effect.broken, effect.broken
    return {c.name: cells(after, c.name) for c in after.columns}, effect


def test_statuses_of_groups_become_rows_of_another_layout():
    now, effect = made(
        "t,a,b\n1,1,0\n2,1,\n3,,\n4,,0\n", StackGroups(groups={"a": "one", "b": "other"})
    )
    assert now == {
        "t": ["1", "2", "1", "4", "3"],
        "status": ["1", "1", "0", "0", ""],
        "group": ["one", "one", "other", "other", ""],
    }
    assert effect.becomes == 5
    assert "1 rows hold several statuses" in effect.note
    assert "1 rows hold no status" in effect.note


LOG = (
    "who,day,what,site\n,2020-01-09,x,s\na,2020-03-01,visit,n\na,2020-01-05,start,\n"
    "b,,visit,m\nb,2020-02-02,end,m\n"
)


def test_a_log_is_gathered_and_what_is_of_nobody_varies_nothing():
    now, effect = made(LOG, GatherRecords(subject="who", date="day", record="what"))
    assert now == {
        "who": ["a", "b"],
        "site": ["n", "m"],
        "first seen": ["2020-01-05", "2020-02-02"],
        "last seen": ["2020-03-01", "2020-02-02"],
        "first end": ["", "2020-02-02"],
        "first start": ["2020-01-05", ""],
        "first visit": ["2020-03-01", ""],
    }
    assert effect.becomes == 2
    assert [left.rows for left in effect.left_out] == [1, 1]


def test_a_log_of_one_record_is_a_log():
    step = GatherRecords(subject="who", date="day", record="what")
    now, _ = made("who,day,what\na,2020-01-05,start\n", step)
    assert now["first start"] == ["2020-01-05"]


def test_the_first_date_of_a_subject_stands_in_each_of_its_rows_and_in_nobody_elses():
    now, effect = made(
        "who,day\n,2019-01-01\na,2020-03-01\na,2020-01-05\nb,\n",
        FirstBySubject(subject="who", column="day", into="first"),
    )
    assert now["first"] == ["", "2020-01-05", "2020-01-05", ""]
    assert effect.made == "1 column"


def test_visits_in_columns_become_rows_and_who_has_none_is_counted():
    now, effect = made(
        "id,t1,s1,t2,s2\na,1,x,5,y\nb,,,2,z\nc,,,,\n",
        StackVisits(times=("t1", "t2"), states=("s1", "s2"), time="t", state="s"),
    )
    assert now == {"id": ["a", "a", "b"], "t": ["1", "5", "2"], "s": ["x", "y", "z"]}
    assert (effect.becomes, [left.rows for left in effect.left_out]) == (3, [1])


def test_a_visit_is_kept_by_what_happened_else_the_last_and_nobodys_rows_stay():
    step = KeepOneVisit(subject="id", time="t", column="s", values=("ill", ""))
    assert "at which s is ill or blank, else the last" in step.named()
    now, _ = made("id,t,s\na,1,well\na,2,ill\na,3,ill\n,9,well\nb,4,well\nb,,ill\nb,2,well\n", step)
    assert now == {"id": ["a", "", "b"], "t": ["2", "9", "4"], "s": ["ill", "well", "well"]}


@pytest.mark.parametrize(("stays", "kept"), [("first", ["3", "7"]), ("last", ["5", "7"])])
def test_of_repeated_rows_one_without_a_place_never_stays(stays, kept):
    step = SetAsideRepeats(key=("id",), stays=stays, along="t")
    now, effect = made("id,t\na,5\na,\na,3\nb,\nb,7\n", step)
    assert now["t"] == kept
    assert effect.rows_set_aside == 3


def test_blank_cells_are_filled_from_above_the_first_row_too():
    now, effect = made("g,x\na,1\n,2\n,3\nb,4\n,5\n", FillDown(column="g"))
    assert now["g"] == ["a", "a", "a", "b", "b"]
    assert (effect.cells_changed, effect.note) == (3, "")
    now, effect = made("g,x\n,1\na,2\n,3\n", FillDown(column="g"))
    assert now["g"] == ["", "a", "a"]
    assert effect.note == "1 at the top have nothing above them and stay blank"


def test_the_first_that_is_known_is_taken_row_by_row():
    now, effect = made("a,b\nx,y\n,y\n,\n", FirstKnown(columns=("a", "b"), into="c"))
    assert now["c"] == ["x", "y", ""]
    assert (effect.cells_changed, effect.made) == (2, "2 levels")


def test_eight_digits_are_a_date_and_others_are_not():
    now, effect = made(
        "d\n20200131\n99991231\n120200131\n2020013\n20200230\n",
        ReadAsDates(column="d", order="year month day"),
    )
    assert now["d"] == ["2020-01-31", "9999-12-31", "", "", ""]
    assert "3 cells" in effect.note


@pytest.mark.parametrize(
    ("step", "named"),
    [
        (
            ReadAsDates(column="d", zone="as written"),
            "Read d as dates, day first, times as written",
        ),
        (ReadAsDates(column="d", zone="+01:00"), "Read d as dates, day first, else at +01:00"),
        (
            ReadAsDates(column="d", serials=True),
            "Read d as dates, day first, numbers as a spreadsheet’s days",
        ),
        (
            TakeUnitApart(column="t", unit="days", into="t"),
            "Take number and unit of t apart, in days",
        ),
        (
            TakeUnitApart(column="t", unit="days", into="u"),
            "Take number and unit of t apart, in days as u",
        ),
        (EditText(column="t", how="split", mark="-", into="t"), "Split t at “-”"),
    ],
)
def test_a_step_is_named_by_what_it_does(step, named):
    assert step.named() == named


def test_numbers_with_units_become_one_unit_and_what_is_none_is_missing():
    now, effect = made(
        "t\n48 h\n3 d\nnever\nnever\n", TakeUnitApart(column="t", unit="days", into="u")
    )
    assert now["u"] == ["2", "3", "", ""]
    assert (effect.cells_changed, effect.made) == (2, "in days")
    assert effect.note.startswith("2 cells hold no such number and are missing now: never")


def test_two_numbers_in_a_cell_are_taken_apart_where_they_are():
    now, effect = made("t\n0-120\n5-60\nlate\n", TakeEndsApart(column="t"))
    assert now["t, start"] == ["0", "5", ""]
    assert now["t, stop"] == ["120", "60", ""]
    assert (effect.cells_changed, effect.made) == (3, "t, start and t, stop")


def test_a_mark_states_how_each_ended():
    now, effect = made("t\n127\n45+\nx\n(9)\n", TakeMarkApart(column="t"))
    assert now["t"][:2] == ["127", "45"]
    assert now["t, how it ended"][:3] == ["event", "censored", ""]
    assert effect.made == "t, how it ended"


def test_values_taken_for_missing_leave_the_others_in_their_places():
    now, effect = made("g,n\na,1\n,2\nb,9\nc,9\n,3\n", MarkMissing(column="g", values=("a", "b")))
    assert now["g"] == ["", "", "", "c", ""]
    assert effect.cells_changed == 2
    now, effect = made("g,n\na,1\nb,9\nc,9\nd,\n", MarkMissing(column="n", values=("9",)))
    assert now["n"] == ["1", "", "", ""]
    assert effect.cells_changed == 2


def test_parts_of_a_text_have_no_label_of_the_whole():
    read = table("t\na-b\nc-d\ne\n")
    rows = read.with_column(replace(read.column("t"), label="Both"))
    split = apply_steps(rows, [EditText(column="t", how="split", mark="-")])[0]
    own = apply_steps(rows, [EditText(column="t", how="before", mark="-")])[0]
    assert [c.label for c in split.columns if c.name != "t"] == ["", ""]
    assert own.column("t").label == "Both"


def test_text_is_read_as_numbers_cell_by_cell():
    now, effect = made("n,x\n1,a\ntwo,b\n3,c\n", ReadAsNumbers(column="n"))
    assert now["n"] == ["1", "", "3"]
    assert "1" in effect.note

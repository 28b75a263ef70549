import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import TypeAdapter, ValidationError

from examples import examples
from hourglass.cohort.steps.apply import Step, apply_steps
from hourglass.cohort.steps.cells import CorrectCell, GiveBack, SwapCells
from hourglass.cohort.steps.document import StepsDocument
from hourglass.cohort.steps.layouts import GatherRecords
from hourglass.cohort.steps.levels import RespellLevels
from hourglass.cohort.steps.moved_dates import a_century_before
from hourglass.cohort.steps.rows import SetAside, SetAsideRepeats
from hourglass.cohort.steps.spread_counts import SpreadCounts
from hourglass.cohort.steps.step import keys_of
from hourglass.cohort.steps.text import EditText
from hourglass.cohort.steps.types import ReadAsDates
from hourglass.cohort.steps.visits import KeepOneVisit
from hourglass.cohort.steps.written_times import EVENT, TakeMarkApart
from making import cells, table

ROWS = table(
    "id,a,b,n,w\n"
    "p,2020-01-01,2020-02-01,1,x\n"
    "q,2020-03-01,2020-01-15,2.5, X\n"
    "r,2020-01-01,,,y\n"
)  # fmt: skip


CELLS = st.sampled_from(["", "1", "2", "70000", "-3", "0.5", "b", "c"])


@settings(max_examples=examples(100), deadline=None)
@given(st.lists(st.tuples(CELLS, CELLS), min_size=1, max_size=12))
def test_rows_differ_by_all_their_cells(rows):
    held = table("row,a,b\n" + "".join(f"x{k},{a},{b}\n" for k, (a, b) in enumerate(rows)))
    key = keys_of(held, ["a", "b"])
    assert [k < 0 for k in key] == [not (a and b) for a, b in rows]
    whole = [(int(k), row) for k, row in zip(key, rows, strict=True) if k >= 0]
    assert all((k == j) == (r == q) for k, r in whole for j, q in whole)


def test_rows_set_aside_are_gone_and_counted():
    now, (effect,) = apply_steps(ROWS, [SetAside(rows=(2, 3, 99), why="no good")])
    assert now.numbers.tolist() == [1]
    assert (effect.name, effect.rows_set_aside) == ("Set aside: no good", 2)


def test_dates_are_swapped_in_the_named_rows_only():
    now, (effect,) = apply_steps(ROWS, [SwapCells(rows=(2,), columns=("a", "b"))])
    assert cells(now, "a") == ["2020-01-01", "2020-01-15", "2020-01-01"]
    assert cells(now, "b") == ["2020-02-01", "2020-03-01", ""]
    assert effect.cells_changed == 2


@pytest.mark.parametrize(
    ("column", "value", "shown"),
    [
        ("n", "7.125", "7.125"),
        ("n", " ", ""),
        ("b", "2021-12-31", "2021-12-31"),
        ("b", "NA", ""),
        ("w", "brand new", "brand new"),
        ("w", "", ""),
    ],
)
def test_a_cell_is_corrected(column, value, shown):
    now, _ = apply_steps(ROWS, [CorrectCell(row=3, column=column, value=value)])
    assert now.column(column).cell(2) == shown
    assert ROWS.column(column).cell(2) in ("", "y"), "the table before is as it was"


@pytest.mark.parametrize(
    ("step", "words"),
    [
        (CorrectCell(row=1, column="n", value="many"), "“many” is not a number"),
        (CorrectCell(row=1, column="b", value="31/12/2021"), "not a date"),
        (SwapCells(rows=(1,), columns=("a", "n")), "not both dates"),
        (RespellLevels(column="n", spelling={}), "no levels"),
    ],
)
def test_a_step_that_does_not_fit_gives_the_reason(step, words):
    now, (effect,) = apply_steps(ROWS, [step])
    assert words in effect.broken
    assert now is ROWS


def test_a_step_on_a_missing_column_names_it():
    fine = CorrectCell(row=1, column="n", value="4")
    now, effects = apply_steps(ROWS, [CorrectCell(row=1, column="gone", value="1"), fine])
    assert "“gone”" in effects[0].broken
    assert (effects[1].broken, now.column("n").cell(0)) == ("", "4.0"), "it is passed over"


def test_levels_are_merged_by_spelling():
    now, (effect,) = apply_steps(ROWS, [RespellLevels(column="w", spelling={" X": "x"})])
    assert now.column("w").counts() == {"x": 2, "y": 1}
    assert effect.cells_changed == 1


def test_steps_apply_in_order_and_leave_the_table_alone():
    steps = [
        SetAside(rows=(1,), why="first"),
        CorrectCell(row=1, column="n", value="9"),
        CorrectCell(row=2, column="n", value="9"),
    ]
    now, effects = apply_steps(ROWS, steps)
    assert [e.cells_changed for e in effects] == [0, 0, 1]
    assert cells(now, "n") == ["9.0", ""]
    assert ROWS.size == 3


def test_steps_are_kept_as_json_and_come_back_the_same():
    kinds = TypeAdapter(Step)
    for step in (
        SetAside(rows=(1, 2), why="because"),
        SwapCells(rows=(1,), columns=("a", "b")),
        CorrectCell(row=1, column="n", value="2"),
        RespellLevels(column="w", spelling={" X": "x"}),
    ):
        assert kinds.validate_json(kinds.dump_json(step)) == step
    with pytest.raises(ValidationError):
        kinds.validate_python({"kind": "set_aside", "rows": [1], "why": "x", "extra": 1})


def test_a_correction_of_a_row_that_is_gone_states_so_and_of_one_that_is_there_nothing():
    steps = [SetAside(rows=(2,), why="twice"), CorrectCell(row=2, column="t", value="9")]
    rows = table("t,s\n1,1\n2,0\n3,1\n")
    now, (_, gone) = apply_steps(rows, steps)
    assert (gone.note, gone.cells_changed) == ("the row is not there any more", 0)
    _, (there,) = apply_steps(rows, steps[1:])
    assert (there.note, there.cells_changed) == ("", 1)
    assert cells(now, "t") == ["1", "3"]


def test_a_text_is_split_into_as_many_parts_as_are_allowed_and_no_more():
    for parts, broken in ((20, ""), (21, "a cell would fall into 21 parts; at most 20")):
        text = "/".join("abcdefghijklmnopqrstu"[:parts])
        now, (effect,) = apply_steps(
            table(f"t,w\n1,{text}\n2,a\n"), [EditText(column="w", how="split", mark="/")]
        )
        assert effect.broken == broken
        assert len(now.columns) == (2 if broken else 22)


def test_only_the_words_that_are_named_become_values_again():
    rows = table("n,g\n1,a\n2,NA\n3,.\n4,b\n5,NA\n6,a\n7,b\n")
    assert cells(rows, "g") == ["a", "", "", "b", "", "a", "b"]
    after, (effect,) = apply_steps(rows, [GiveBack(column="g", words=("NA",))])
    assert cells(after, "g") == ["a", "NA", "", "b", "NA", "a", "b"]
    assert effect.cells_changed == 2


def test_the_last_visit_of_the_only_subject_is_kept():
    rows = table("id,week,x\np,1,a\np,3,b\np,2,c\n")
    after, (effect,) = apply_steps(rows, [KeepOneVisit(subject="id", time="week")])
    assert not effect.broken
    assert cells(after, "x") == ["b"]


def test_a_day_number_is_a_date_from_the_first_of_march_1900_on():
    rows = table("d\n61\n60\n2958465\n2958466\n61.5\n")
    after, _ = apply_steps(rows, [ReadAsDates(column="d", order="spreadsheet days")])
    assert [day[:10] for day in cells(after, "d")] == [
        "1900-03-01", "", "9999-12-31", "", "1900-03-01",
    ]  # fmt: skip


@pytest.mark.parametrize("planned", ["a step", {"reason": "x"}, ["step"], None])
def test_steps_that_are_no_steps_are_refused_as_invalid(planned):
    with pytest.raises(ValidationError):
        StepsDocument.model_validate(
            {"version": 1, "follow_up": {"clock": {"kind": "duration"}}, "steps": [planned]}
        )


def test_of_rows_of_one_subject_the_first_stays_also_for_the_first_subject():
    rows = table("id,x\na,1\na,2\nb,3\nb,4\n,5\n,6\n")
    after, (effect,) = apply_steps(rows, [SetAsideRepeats(key=("id",), stays="first")])
    assert cells(after, "x") == ["1", "3", "5", "6"]
    assert not effect.broken


def test_a_century_earlier_29_february_is_the_28th_where_there_was_none():
    dates = np.array(["2000-02-29", "2004-02-29", "1999-01-31"], dtype="datetime64[us]")
    earlier = a_century_before(dates).astype("datetime64[D]").astype(str)
    assert earlier.tolist() == ["1900-02-28", "1904-02-29", "1899-01-31"]


def test_counts_that_do_not_go_together_are_named():
    rows = table("t,died,left,n\n1,1,0,5\n2,1,0,9\n3,4,0,2\n")
    step = SpreadCounts(counts={"died": "1", "left": "0"}, time="t", at_risk="n")
    _, (effect,) = apply_steps(rows, [step])
    assert "more are at risk than before at 1 times" in effect.note
    assert "more ended than were at risk at 1 times" in effect.note


def test_cells_with_a_mark_are_counted_whichever_end_comes_first():
    rows = table("t\n12+\n8\n5+\nx\n")
    _, (effect,) = apply_steps(rows, [TakeMarkApart(column="t", marked=EVENT)])
    assert effect.cells_changed == 3


@pytest.mark.parametrize(
    ("earlier", "today"),
    [
        (
            {"kind": "spread_tallies", "tallies": {"died": "1"}, "time": "t"},
            SpreadCounts(counts={"died": "1"}, time="t"),
        ),
        (
            {"kind": "gather_happenings", "subject": "a", "date": "b", "happening": "c"},
            GatherRecords(subject="a", date="b", record="c"),
        ),
        (
            {
                "kind": "keep_one_visit",
                "subject": "a",
                "time": "t",
                "happening": "s",
                "values": ["x"],
            },
            KeepOneVisit(subject="a", time="t", column="s", values=("x",)),
        ),
    ],
)
def test_steps_of_earlier_versions_are_read_under_todays_names(earlier, today):
    steps = TypeAdapter(Step)
    assert steps.validate_python(earlier) == today
    assert steps.validate_json(today.model_dump_json()) == today

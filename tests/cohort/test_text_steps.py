"""Taking cells apart: numbers with their units, and parts of texts."""

import pytest

from hourglass.cohort.findings.find import find
from hourglass.cohort.findings.finding import steps_for
from hourglass.cohort.proposal.propose import propose
from hourglass.cohort.steps.apply import apply_steps
from hourglass.cohort.steps.step import BrokenStepError
from hourglass.cohort.steps.text import EditText
from hourglass.cohort.steps.units import TakeUnitApart, value_of
from making import table, timed


@pytest.mark.parametrize(
    ("cell", "unit", "decimal", "value"),
    [
        ("1,287 h", "hours", ".", 1287),
        ("12 d", "days", ".", 12),
        ("12d", "hours", ".", 288),
        ("3 mo 4 d", "days", ".", 3 * 30.4375 + 4),
        ("2 yrs, 6 months", "months", ".", 30),
        ("1.287,5 Std", "hours", ",", 1287.5),
        ("1 287 h", "hours", ".", 1287),
        ("90 min", "hours", ".", 1.5),
        ("70 kg", "kg", ".", 70),
        ("500 g", "kg", ".", 0.5),
        ("-3 d", "days", ".", -3),
        ("12 d", "kg", ".", None),
        ("about 12 d", "days", ".", None),
        ("12", "days", ".", None),
        ("1,2,3 h", "hours", ".", None),
    ],
)
def test_a_cell_with_units_comes_to_a_number(cell, unit, decimal, value):
    found = value_of(cell, unit, decimal)
    assert found == (None if value is None else pytest.approx(value, rel=1e-12))


def test_units_in_cells_are_noticed_and_taken_apart():
    lengths = ["12 d", "3 mo 4 d", "1,200 h", "2 wk", "40 d", "unknown to us"]
    rows = table("t,s,run\n" + "".join(f'{k},1,"{v}"\n' for k, v in enumerate(lengths, start=1)))
    finding = next(f for f in find(rows, timed()) if f.key == "units in cells: run")
    assert finding.rows.tolist() == [6], "the row that holds none"
    after, effects = apply_steps(rows, finding.choice("in days").steps)
    assert effects[0].broken == ""
    column = after.column("run")
    expected = [12, 3 * 30.4375 + 4, 50, 14, 40]
    assert column.values[:5].tolist() == pytest.approx(expected, rel=1e-12)
    assert (column.unit, column.missing[5]) == ("days", True)
    assert "1 cells hold no such number" in effects[0].note
    with pytest.raises(BrokenStepError):
        TakeUnitApart(column="run", unit="kg").on(rows)


CODES = "c\nA-01/x\nB-2/y\n C  3\n"


@pytest.mark.parametrize(
    ("step", "cells"),
    [
        ({"how": "before", "mark": "-"}, ["A", "B", ""]),
        ({"how": "after", "mark": "-"}, ["01/x", "2/y", ""]),
        ({"how": "between", "mark": "-", "other": "/"}, ["01", "2", ""]),
        ({"how": "part", "mark": "/", "number": 2}, ["x", "y", ""]),
        ({"how": "replace", "mark": "-", "other": "_"}, ["A_01/x", "B_2/y", "C  3"]),
        ({"how": "pad", "number": 8, "other": "*"}, ["**A-01/x", "***B-2/y", "*** C  3"]),
        ({"how": "trim"}, ["A-01/x", "B-2/y", "C 3"]),
        ({"how": "upper"}, ["A-01/X", "B-2/Y", "C  3"]),
        ({"how": "lower"}, ["a-01/x", "b-2/y", "c  3"]),
    ],
)
def test_each_way_of_editing_text(step, cells):
    rows = table(CODES)
    made = EditText(column="c", into="d", **step).on(rows).table
    assert [made.column("d").cell(k) for k in range(3)] == cells
    assert made.column("c") is rows.column("c"), "the column itself stays"


def test_a_text_is_split_into_columns_at_a_mark():
    done = EditText(column="c", how="split", mark="/").on(table(CODES))
    assert [c.name for c in done.table.columns] == ["c", "c 1", "c 2"]
    assert [done.table.column("c 2").cell(k) for k in range(3)] == ["x", "y", ""]
    with pytest.raises(BrokenStepError, match="give the mark"):
        EditText(column="c", how="split").on(table(CODES))
    with pytest.raises(BrokenStepError, match="no cell of c holds"):
        EditText(column="c", how="split", mark="#").on(table(CODES))


def test_dates_within_text_are_noticed_and_taken_out():
    rows = table(
        "t,s,n\n1,1,seen 2020-01-05 by phone\n2,0,seen 2020-02-07\n3,1,letter of 2020-03-01\n"
    )
    finding = next(f for f in find(rows, timed()) if f.key == "dates in text: n")
    after, _ = apply_steps(rows, finding.choice("take dates").steps)
    assert after.column("n, date").cell(1) == "2020-02-07"


def test_of_several_dates_in_a_cell_the_first_the_last_or_each_is_taken():
    text = "id;seen;st\n" + "".join(
        f"{k};2019-03-{k % 27 + 1:02d}, {'2019-05-09 and ' * (k % 2)}2019-06-{k % 27 + 1:02d};{k % 2}\n"
        for k in range(30)
    )
    rows = table(text)
    stated = next(f for f in find(rows, propose(rows)) if f.key == "several dates: seen")
    assert stated.rows.size == 30
    for choice, names, cell in (
        ("take first", ["seen, first"], "2019-03-02"),
        ("take last", ["seen, last"], "2019-06-02"),
        ("take each", ["seen, date 1", "seen, date 2", "seen, date 3"], "2019-03-02"),
    ):
        now, effects = apply_steps(rows, steps_for(stated, choice))
        assert not [e.broken for e in effects if e.broken]
        made = now.columns[3:]
        assert [c.name for c in made] == names
        assert {c.kind for c in made} == {"date"}
        assert made[0].cell(1) == cell

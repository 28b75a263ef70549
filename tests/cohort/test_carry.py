"""Steps carried over to a new data extract find the same people, however the rows have moved."""

import random

from hypothesis import given, settings
from hypothesis import strategies as st

from examples import examples
from hourglass.cohort.carry import carry_over, row_keys
from hourglass.cohort.steps.apply import apply_steps
from hourglass.cohort.steps.cells import CorrectCell, SwapCells
from hourglass.cohort.steps.document import PlacedStep
from hourglass.cohort.steps.numbers import NewColumn
from hourglass.cohort.steps.rows import SetAside
from making import table

HEAD = "id,t,a,b\n"


def rows_of(subjects):
    return [
        f"p{k},{k * 3 % 7},2020-01-{k % 27 + 1:02d},2020-02-{k % 27 + 1:02d}\n" for k in subjects
    ]


def steps_on(rows, one):
    """Set some rows aside, correct a cell, swap two dates, and make a column."""
    return [
        PlacedStep(id=1, step=SetAside(rows=tuple(rows), why="no")),
        PlacedStep(id=2, step=CorrectCell(row=one, column="t", value="99")),
        PlacedStep(id=3, step=SwapCells(rows=(one,), columns=("a", "b"))),
        PlacedStep(id=4, step=NewColumn(name="x", formula="t * 2"), active=False),
    ]


def test_a_row_whose_subject_is_blank_is_found_again():
    old, new = table("id,t\na,1\n,2\n,3\n"), table("id,t\nb,9\n,2\na,1\n,3\n")
    carried, lost = carry_over(
        [PlacedStep(id=1, step=SetAside(rows=(2, 3), why="who is it"))], old, new, "id"
    )
    assert [p.step.rows for p in carried] == [(2, 4)]
    assert lost == []


def subjects(now):
    return {
        now.column("id").cell(k): tuple(c.cell(k) for c in now.columns) for k in range(now.size)
    }


@settings(max_examples=examples(80), deadline=None)
@given(
    st.sets(st.integers(1, 12), max_size=5),
    st.integers(1, 12),
    st.sets(st.integers(0, 11), max_size=6),
    st.integers(0, 9999),
    st.sampled_from(["id", None]),
)
def test_the_same_people_are_set_aside_and_corrected(aside, one, gone, seed, subject):
    old = table(HEAD + "".join(rows_of(range(12))))
    there = [k for k in range(15) if k not in gone]
    random.Random(seed).shuffle(there)
    new = table(HEAD + "".join(rows_of(there)))
    steps = steps_on(aside, one)
    carried, lost = carry_over(steps, old, new, subject)
    before = subjects(apply_steps(old, [s.step for s in steps if s.active])[0])
    after = subjects(apply_steps(new, [s.step for s in carried if s.active])[0])
    assert set(after) == {f"p{k}" for k in there} - {f"p{n - 1}" for n in aside}
    for name in set(after) & set(before):
        assert after[name] == before[name]
    missing = sum(1 for n in aside if n - 1 in gone)
    assert any(f"{missing} row" in text or "1 row" in text for text in lost) == (
        missing > 0 or (one not in aside and one - 1 in gone)
    )
    assert [s.active for s in carried] == [True, True, True, False]
    assert {s.id for s in carried} == {0}


def test_rows_of_one_subject_are_distinguished_by_their_order():
    keys = row_keys(table("id,t\na,1\nb,2\na,3\n"), "id")
    assert len(set(keys)) == 3
    old, new = table("id,t\na,1\na,2\nb,3\n"), table("id,t\nb,3\na,1\na,2\na,9\n")
    second = [PlacedStep(step=SetAside(rows=(2,), why="second"))]
    (carried,), lost = carry_over(second, old, new, "id")
    assert carried.step.rows == (3,)
    assert lost == []


def test_a_step_after_another_finds_its_rows_as_they_are_then():
    old, new = table("id,t\na,1\nb,2\nc,3\n"), table("id,t\nc,3\nb,2\na,1\n")
    steps = [
        PlacedStep(step=CorrectCell(row=1, column="id", value="renamed")),
        PlacedStep(step=SetAside(rows=(1,), why="gone")),
    ]
    carried, lost = carry_over(steps, old, new, "id")
    now, _ = apply_steps(new, [s.step for s in carried])
    assert sorted(now.column("id").cell(k) for k in range(now.size)) == ["b", "c"]
    assert lost == []

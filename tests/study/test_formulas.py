"""Formulas over many rows are worked out by another process, which can be cancelled; few are not."""

from concurrent.futures import Future

import pytest

from hourglass.cohort.steps.apply import apply_steps
from hourglass.cohort.steps.numbers import NewColumn
from hourglass.cohort.steps.rows import SetAside
from hourglass.core.progress import CancelledError
from hourglass.study.demos import keep_file
from hourglass.study.formulas import ROWS_WORKED_OUT_AT_ONCE, TOO_MUCH, FormulasElsewhere
from hourglass.study.in_memory import BlobsInMemory, InMemory
from hourglass.study.processes import WorkEndedError
from hourglass.study.source import source_of
from hourglass.study.tasks import RunFormulas, RunPreview
from hourglass.study.work import WorkUnderWay

STEPS = (
    NewColumn(name="double", formula="2 * t"),
    SetAside(rows=(1,), why="x"),
    NewColumn(name="wrong", formula="nothing_like_it + 1"),
    NewColumn(name="late", formula='if double > 8 then "late" else "early"'),
)


class Recorded:
    """An executor that keeps what it was given, and does it, or fails with the error given."""

    def __init__(self, error=None):
        self.tasks, self.error = [], error

    def submit(self, task, handle):
        self.tasks.append(task)
        done = Future()
        if self.error is None:
            done.set_result(task(handle.progress))
        else:
            done.set_exception(self.error)
        return done


def source(rows, executor, salt):
    """A file of so many rows; the salt makes it another than any that is remembered."""
    repository, kept = InMemory(), BlobsInMemory()
    made = repository.create("A study")
    body = "t,s\n" + "".join(f"{k % 97 + salt},1\n" for k in range(rows))
    keep_file(repository, kept, repository.load(made), "rows.csv", body.encode())
    elsewhere = FormulasElsewhere(WorkUnderWay(), executor)
    return source_of(repository.load(made), kept, elsewhere).with_steps(STEPS)


def test_what_is_made_elsewhere_is_what_is_made_here_and_is_made_once():
    executor = Recorded()
    far = source(ROWS_WORKED_OUT_AT_ONCE + 1, executor, 0)
    table, effects = far.applied()
    here, effects_here = apply_steps(far.table(), STEPS)
    assert effects == effects_here
    assert [e.broken != "" for e in effects] == [False, False, True, False]
    assert [c.name for c in table.columns] == [c.name for c in here.columns]
    for ours, theirs in zip(table.columns, here.columns, strict=True):
        assert [ours.cell(k) for k in range(0, 20_000, 501)] == [
            theirs.cell(k) for k in range(0, 20_000, 501)
        ]
    far.with_steps((*STEPS, SetAside(rows=(7,), why="y"))).applied()
    assert [type(task) for task in executor.tasks] == [RunFormulas], "no formula was added"


def test_few_rows_and_steps_without_formulas_go_nowhere():
    executor = Recorded()
    source(ROWS_WORKED_OUT_AT_ONCE, executor, 1).applied()
    source(ROWS_WORKED_OUT_AT_ONCE + 1, executor, 1).with_steps(STEPS[1:2]).applied()
    assert executor.tasks == []


def test_formulas_that_end_their_process_do_not_lock_the_study():
    far = source(ROWS_WORKED_OUT_AT_ONCE + 1, Recorded(WorkEndedError("for want of memory")), 2)
    table, effects = far.applied()
    assert [e.broken for e in effects] == [TOO_MUCH, "", TOO_MUCH, TOO_MUCH]
    assert table.size == ROWS_WORKED_OUT_AT_ONCE, "the other steps hold"


def test_a_fault_in_a_formula_does_not_lock_the_study(monkeypatch):
    def faulty(*_):
        raise IndexError("list index out of range")

    monkeypatch.setattr("hourglass.cohort.formula.evaluate._operation", faulty)
    _, effects = source(ROWS_WORKED_OUT_AT_ONCE + 1, Recorded(), 5).applied()
    fault = "the program could not carry it out (IndexError: list index out of range)"
    assert [e.broken for e in effects[:2]] == [fault, ""]


def test_cancelled_formulas_are_cancelled_for_whoever_waits_and_made_when_wanted_again():
    executor = Recorded(CancelledError())
    far = source(ROWS_WORKED_OUT_AT_ONCE + 1, executor, 3)
    with pytest.raises(CancelledError):
        far.applied()
    executor.error = None
    assert far.applied()[0].has("late")


def test_a_formula_looks_whether_it_is_still_wanted_while_it_is_worked_out():
    def until_it_works(what, share):
        if what == "working out double":
            raise CancelledError

    bare = source(30, Recorded(), 4).with_steps(())
    for task in (RunFormulas(bare.with_steps(STEPS)), RunPreview(bare, STEPS[0])):
        with pytest.raises(CancelledError):
            task(until_it_works)

"""Rows that steps name are found again by another process where there are many, with all formulas."""

from concurrent.futures import Future

import pytest

from hourglass.analysis.registry import STAGES
from hourglass.cohort.carry import carry_over
from hourglass.cohort.steps.numbers import NewColumn
from hourglass.cohort.steps.rows import SetAside
from hourglass.study.commands.steps import put_step
from hourglass.study.demos import keep_file
from hourglass.study.formulas import ROWS_WORKED_OUT_AT_ONCE
from hourglass.study.in_memory import BlobsInMemory, InMemory
from hourglass.study.plans.placing import placed_steps, plan_naming_rows, steps_carried_over
from hourglass.study.results import Results

LATE = NewColumn(name="late", formula="t * 2")
STEPS = (LATE, SetAside(rows=(3, 5), why="twice"))


class Elsewhere:
    """An executor that does at once what it is given; ``at_work`` while it does."""

    def __init__(self):
        self.names, self.at_work = [], False

    def submit(self, task, handle):
        self.names.append(type(task).__name__)
        self.at_work, done = True, Future()
        done.set_result(task(handle.progress))
        self.at_work = False
        return done

    def close(self):
        pass


@pytest.fixture(params=[ROWS_WORKED_OUT_AT_ONCE, ROWS_WORKED_OUT_AT_ONCE + 1])
def made(request, monkeypatch):
    """A study with steps, the same rows as another file with one row before them, and whether all that is
    worked out by formulas must be elsewhere."""
    repository, kept, elsewhere = InMemory(), BlobsInMemory(), Elsewhere()
    results, rows = Results(repository, kept, elsewhere, STAGES), request.param
    evaluate = LATE.__class__.column_of

    def watched(self, *given):
        assert elsewhere.at_work or rows <= ROWS_WORKED_OUT_AT_ONCE
        return evaluate(self, *given)

    monkeypatch.setattr(NewColumn, "column_of", watched)
    lines = [f"{k},{k % 2}" for k in range(1, rows + 1)]
    studies = []
    for name, body in (("one", lines), ("two", ["999999,1", *lines[:-1]])):
        study = repository.load(repository.create(name))
        study, _ = keep_file(
            repository, kept, study, f"{name}.csv", "\n".join(["t,s", *body]).encode()
        )
        studies.append(study)
    for step in STEPS:
        studies[0] = put_step(repository, studies[0], step)
    return results, studies[0], studies[1], elsewhere, rows > ROWS_WORKED_OUT_AT_ONCE


def test_a_plan_finds_its_rows_in_another_file(made):
    results, one, two, elsewhere, far = made
    plan = plan_naming_rows(results, one)
    placed = placed_steps(results, results.source(two), plan, two.file.sha256)
    assert [p.placed.step for p in placed] == [LATE, SetAside(rows=(4, 6), why="twice")]
    assert elsewhere.names == (["NameRows", "PlaceSteps"] if far else [])
    again = placed_steps(results, results.source(one), plan, one.file.sha256)
    assert [p.placed.step for p in again] == list(STEPS), "in its own file they are where they were"
    assert len(elsewhere.names) == (2 if far else 0)


def test_an_export_gets_the_steps_carried_over(made):
    results, one, two, elsewhere, far = made
    new = results.source(two)
    carried = steps_carried_over(results, one, new, ())
    assert [p.step for p in carried] == [LATE, SetAside(rows=(4, 6), why="twice")]
    assert elsewhere.names == (["CarryOver"] if far else [])
    elsewhere.at_work = True  # the literal way, here
    literal, _ = carry_over(one.steps, results.source(one).table(), new.table(), None)
    assert [p.step for p in literal] == [p.step for p in carried]

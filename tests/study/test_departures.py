"""How a study departs from its sealed plan: every decision that is another is seen, whatever it is called."""

from dataclasses import replace

import pytest

from hourglass.analysis.registry import STAGES
from hourglass.cohort.steps.cells import SwapCells
from hourglass.cohort.steps.levels import ReadAsText
from hourglass.cohort.steps.numbers import SplitNumber
from hourglass.cohort.steps.rows import SetAside
from hourglass.cohort.steps.types import ReadAsDates, ReadAsNumbers
from hourglass.core.comparison.weights import WEIGHTS
from hourglass.study.changing import arrange_steps, state, take_step
from hourglass.study.demos import keep_file, load_demo
from hourglass.study.in_memory import BytesInMemory, InMemory
from hourglass.study.in_process import InProcess
from hourglass.study.plans.applying import seal_plan
from hourglass.study.plans.departures import _fields, departures, departures_of
from hourglass.study.plans.document import plan_of_study, sealed_plan
from hourglass.study.results import Results

ROWS = "t,s,arm,age\n" + "".join(
    f"{k + 1},{k % 2},{'ab'[k % 3 == 0]},{40 + k}\n" for k in range(30)
)


AGE_BANDS = SplitNumber(column="age", points=(50,), into="band")
ARM = ReadAsText(column="arm")


def taken(keeping, study, *steps):
    for step in steps:
        study = take_step(keeping, study, "taken", step)
    return study


def sealed_with(keeping, blobs, *steps):
    study = keeping.load(keeping.create("Sealed"))
    study, _ = keep_file(keeping, blobs, study, "rows.csv", ROWS.encode())
    study = taken(keeping, study, *steps)
    seal_plan(keeping, study)
    return keeping.load(study.id)


def found(study):
    return [(d.about, d.planned, d.now) for d in departures(study, STAGES)]


@pytest.mark.parametrize(
    ("planned_step", "now", "departs"),
    [
        (
            SetAside(rows=(3,), why="twice"),
            SetAside(rows=(3, 5, 7), why="twice"),
            ("Step “Set aside: twice”: rows", "3", "3, 5, 7"),
        ),
        (
            SwapCells(rows=(3,), columns=("t", "age")),
            SwapCells(rows=(4,), columns=("t", "age")),
            ("rows", "3", "4"),
        ),
        (
            ReadAsDates(column="t", order="day first", century_from=1931),
            ReadAsDates(column="t", order="day first", century_from=1900),
            ("century from", "1931", "1900"),
        ),
        (
            ReadAsNumbers(column="t", decimal=".", thousands=","),
            ReadAsNumbers(column="t", decimal=".", thousands="'"),
            ("thousands", ",", "'"),
        ),
        (
            SplitNumber(column="age", points=(50,), into="band"),
            SplitNumber(column="age", points=(55,), into="band"),
            ("Step", "Split age at 50", "Split age at 55"),
        ),
    ],
)
def test_a_step_that_is_edited_departs_whatever_its_name(
    keeping, blobs, planned_step, now, departs
):
    study = sealed_with(keeping, blobs, planned_step)
    assert found(study) == []
    edited = take_step(keeping, study, "edited", now, instead_of=study.steps[0].id)
    ((about, before, after),) = found(edited)
    assert (before, after) == departs[1:]
    assert about.endswith(departs[0])


def test_steps_that_are_moved_added_or_removed_are_each_seen(keeping, blobs):
    study = sealed_with(keeping, blobs, AGE_BANDS, ARM)
    moved = arrange_steps(keeping, study, "moved", study.steps[::-1])
    ((about, before, after),) = found(moved)
    assert about.startswith("Step “")
    assert {before, after} == {"step 1", "step 2"}
    both = taken(keeping, moved, SetAside(rows=(3,), why="twice"))
    assert len(found(both)) == 2, "another order, beside a step that was added"
    gone = arrange_steps(keeping, both, "removed", both.steps[1:2])
    assert found(gone) == [("Step", ARM.named(), "")]


def test_another_file_and_another_reading_depart(keeping, blobs):
    study = sealed_with(keeping, blobs)
    plan = plan_of_study(study)

    def departing_from(**otherwise):
        seal = sealed_plan(study).sealed
        other = plan.model_copy(update={**otherwise, "sealed": seal})
        sealed = other.model_dump(mode="json")
        return found(replace(study, decided=replace(study.decided, sealed=sealed)))

    file = plan.made_on.model_copy(update={"sha256": "0" * 64})
    assert departing_from(made_on=file) == [
        ("File", f"rows.csv ({'0' * 12})", f"rows.csv ({plan.made_on.sha256[:12]})")
    ]
    recipe = plan.reading.model_copy(update={"decimal": ","})
    assert departing_from(reading=recipe) == [("Reading: decimal", ",", ".")]
    assert departing_from(made_on=None, reading=None) == [], "sealed before there were data"


@pytest.mark.parametrize("stage", [stage.name for stage in STAGES])
def test_every_field_of_a_statement_that_is_changed_alone_is_seen(stage):
    kind = next(one.statement for one in STAGES if one.name == stage)
    for name in set(kind.model_fields) - {"stage", "version", "kept", "beside"}:
        before = kind().model_dump(mode="json")
        changed = {**before, name: ["otherwise"]}
        assert [d.about for d in _fields("It", before, changed)] == [
            f"It: {name.replace('_', ' ')}"
        ]


def test_a_statement_that_nobody_wrote_is_sealed_as_it_is_in_effect():
    keeping, kept, executor = InMemory(), BytesInMemory(), InProcess()
    made, _ = load_demo(keeping, kept, "lamps")
    results = Results(keeping, kept, executor, STAGES)
    keeping.open_analysis(keeping.begin_analysis(made, "compare", begun=False))
    seal_plan(keeping, keeping.load(made), None, results.stated(keeping.load(made)))
    study = keeping.load(made)
    assert departures_of(results, study) == []
    cohort = results.source(study).cohort()
    planned = results.statement(study, study.analysis("compare"), cohort)
    changed = planned.model_copy(update={"weight": WEIGHTS[1].key})
    state(keeping, study, None, changed, cohort.table, None)
    ((about, before, after),) = [
        (d.about, d.planned, d.now) for d in departures_of(results, keeping.load(made))
    ]
    assert (about, before, after) == ("Compare: weight", WEIGHTS[0].key, WEIGHTS[1].key)
    executor.close()

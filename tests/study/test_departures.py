"""How a study departs from its sealed plan: every decision that is another is seen, whatever it is called."""

from dataclasses import replace
from typing import get_args

import pytest
from pydantic import ValidationError

from hourglass.analysis.catalogue.weights import WEIGHTS
from hourglass.analysis.compare.statement import CompareStatement
from hourglass.analysis.registry import STAGES
from hourglass.cohort.statement import FollowUpStatement
from hourglass.cohort.steps.apply import Step
from hourglass.cohort.steps.cells import SwapCells
from hourglass.cohort.steps.levels import ReadAsText
from hourglass.cohort.steps.numbers import SplitNumber
from hourglass.cohort.steps.rows import SetAside
from hourglass.cohort.steps.types import ReadAsDates, ReadAsNumbers
from hourglass.study.actions.follow_up import FollowUpSet, fields_set
from hourglass.study.actions.steps import StepEdited
from hourglass.study.commands.follow_up import follow
from hourglass.study.commands.statements import begin_analysis, remove_analysis, state
from hourglass.study.commands.steps import arrange_steps, put_step, withdraw
from hourglass.study.demos import keep_file, load_demo
from hourglass.study.in_memory import BlobsInMemory, InMemory
from hourglass.study.in_process import InProcess
from hourglass.study.plans.applying import seal_plan
from hourglass.study.plans.departures import _edited, _fields, departures, departures_of
from hourglass.study.plans.document import plan_of_study, sealed_plan
from hourglass.study.results import Results
from hourglass.study.source import source_of
from values_of_schema import values

ROWS = "t,s,arm,age\n" + "".join(
    f"{k + 1},{k % 2},{'ab'[k % 3 == 0]},{40 + k}\n" for k in range(30)
)


AGE_BANDS = SplitNumber(column="age", points=(50,), into="band")
ARM = ReadAsText(column="arm")


def taken(repository, study, *steps):
    for step in steps:
        study = put_step(repository, study, step)
    return study


def sealed_with(repository, blobs, *steps):
    study = repository.load(repository.create("Sealed"))
    study, _ = keep_file(repository, blobs, study, "rows.csv", ROWS.encode())
    study = taken(repository, study, *steps)
    seal_plan(repository, study)
    return repository.load(study.id)


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
    repository, blobs, planned_step, now, departs
):
    study = sealed_with(repository, blobs, planned_step)
    assert found(study) == []
    edited = put_step(repository, study, now, instead_of=study.steps[0].id)
    ((about, before, after),) = found(edited)
    assert (before, after) == departs[1:]
    assert about.endswith(departs[0])


def test_steps_that_are_moved_added_or_removed_are_each_seen(repository, blobs):
    study = sealed_with(repository, blobs, AGE_BANDS, ARM)
    moved = arrange_steps(repository, study, {p.id: p.active for p in study.steps[::-1]})
    ((about, before, after),) = found(moved)
    assert about.startswith("Step “")
    assert {before, after} == {"step 1", "step 2"}
    both = taken(repository, moved, SetAside(rows=(3,), why="twice"))
    assert len(found(both)) == 2, "another order, beside a step that was added"
    gone = arrange_steps(repository, both, {p.id: p.active for p in both.steps[1:2]})
    assert found(gone) == [("Step", ARM.named(), "")]


def test_another_file_and_another_reading_depart(repository, blobs):
    study = sealed_with(repository, blobs)
    plan = plan_of_study(study)

    def departing_from(**otherwise):
        seal = sealed_plan(study).sealed
        other = plan.model_copy(update={**otherwise, "sealed": seal})
        sealed = other.model_dump(mode="json")
        return found(replace(study, snapshot=replace(study.snapshot, sealed=sealed)))

    file = plan.made_on.model_copy(update={"sha256": "0" * 64})
    assert departing_from(made_on=file) == [
        ("File", f"rows.csv ({'0' * 12})", f"rows.csv ({plan.made_on.sha256[:12]})")
    ]
    recipe = plan.reading.model_copy(update={"decimal": ","})
    assert departing_from(reading=recipe) == [("Reading: decimal", ",", ".")]
    assert departing_from(made_on=None, reading=None) == [], "sealed before there were data"


def changed_alone(kind):
    """Pairs of a kind that differ in one field, with its name."""
    schema = kind.model_json_schema()
    defs = schema.get("$defs", {})
    (body, *_) = values({"$ref": "#/$defs/it"}, {**defs, "it": schema})
    for name, one in schema["properties"].items():
        for value in values(one, defs):
            try:
                before, after = (kind.model_validate(b) for b in (body, {**body, name: value}))
            except ValidationError:
                continue
            if before != after and name not in ("kind", "version"):
                yield name, before, after


@pytest.mark.parametrize("kind", get_args(get_args(Step)[0]), ids=lambda kind: kind.__name__)
def test_every_field_of_a_step_that_is_changed_alone_is_seen(kind):
    tried = set()
    for name, before, after in changed_alone(kind):
        tried.add(name)
        assert _edited(before, after), name
        assert StepEdited(step_id=1, was=before, step=after).sentence != before.named() or (
            before.named() != after.named()
        )
    assert tried or not kind.model_fields.keys() - {"kind", "version"}


def test_every_field_of_the_follow_up_that_is_changed_alone_is_seen_and_stated():
    tried = set()
    for name, before, after in changed_alone(FollowUpStatement):
        bodies = (before.model_dump(mode="json"), after.model_dump(mode="json"))
        assert [d.about for d in _fields("It", *bodies, lambda _: None)] == [
            f"It: {name.replace('_', ' ')}"
        ]
        assert FollowUpSet(**fields_set(before, after)).sentence, name
        tried.add(name)
    assert tried == FollowUpStatement.model_fields.keys() - {"version"}


def test_a_departure_has_the_reason_and_the_day_of_its_decision(repository, blobs):
    study = sealed_with(repository, blobs, AGE_BANDS)
    study = put_step(
        repository, study, SetAside(rows=(3, 5), why="twice"), "after a call to the clinic"
    )
    longer = study.follow_up.model_copy(update={"longest": 20.0})
    study = follow(repository, study, longer, source_of(study, blobs).after_steps())
    study = state(
        repository, study, None, CompareStatement(by="arm"), source_of(study, blobs).after_steps()
    )
    shown = {d.about: d for d in departures(study, STAGES)}
    step = shown["Step"]
    assert (step.now, step.reason) == (
        "Set aside: twice (2 rows: 3, 5)",
        "after a call to the clinic",
    )
    assert {d.on for d in shown.values()} == {study.decisions[-1].made_at.date()}
    taken_by = next(d.id for d in study.standing if d.reason)
    left = departures(withdraw(repository, study, taken_by), STAGES)
    assert "Step" not in {d.about for d in left}


@pytest.mark.parametrize("stage", [stage.name for stage in STAGES])
def test_every_field_of_a_statement_that_is_changed_alone_is_seen(stage):
    kind = next(one.statement for one in STAGES if one.name == stage)
    for name in set(kind.model_fields) - {"stage", "version", "kept", "beside"}:
        before = kind().model_dump(mode="json")
        changed = {**before, name: ["otherwise"]}
        assert [d.about for d in _fields("It", before, changed, lambda _: None)] == [
            f"It: {name.replace('_', ' ')}"
        ]


def test_a_statement_that_nobody_wrote_is_sealed_as_it_is_in_effect():
    repository, kept, executor = InMemory(), BlobsInMemory(), InProcess()
    made, _ = load_demo(repository, kept, "lamps")
    results = Results(repository, kept, executor, STAGES)
    repository.open_analysis(repository.begin_analysis(made, "compare", begun=False))
    seal_plan(
        repository, repository.load(made), plan_of_study(results.stated(repository.load(made)))
    )
    study = repository.load(made)
    assert departures_of(results, study) == []
    planned = results.statement(study, study.analysis("compare"))
    changed = planned.model_copy(update={"weight": list(WEIGHTS)[1]})
    state(repository, study, None, changed, results.source(study).after_steps())
    ((about, before, after),) = [
        (d.about, d.planned, d.now) for d in departures_of(results, repository.load(made))
    ]
    assert (about, before, after) == (
        "Compare: test",
        *(one.name for one in list(WEIGHTS.values())[:2]),
    )
    executor.close()


def test_an_analysis_that_is_deleted_was_planned_and_not_made(repository, blobs):
    study = repository.load(repository.create("Sealed"))
    study, _ = keep_file(repository, blobs, study, "rows.csv", ROWS.encode())
    body = CompareStatement(by="arm").model_dump(mode="json")
    for _ in range(2):
        study, _ = begin_analysis(repository, study, "compare", "", body)
    seal_plan(repository, study)
    study = repository.load(study.id)
    assert found(study) == []
    last = study.of_stage("compare")[-1]
    study = remove_analysis(repository, study, last.id)
    assert found(study) == [("Compare, 2", "planned", "not made")]
    study, _ = begin_analysis(repository, study, "compare", "", body)
    study, _ = begin_analysis(repository, study, "compare", "", body)
    assert found(study) == [("Compare, 3", "", "made beside the plan")]

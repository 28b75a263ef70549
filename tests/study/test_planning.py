"""Plans: applied, sealed, departed from, and set against other files."""

import json
from datetime import UTC, datetime
from pathlib import Path

import pytest

from hourglass.analysis.model.statement import HazardsModel, KeptModel, ModelStatement
from hourglass.analysis.model.terms.number import NumberTerm
from hourglass.analysis.registry import STAGES
from hourglass.cohort.condition import Clause, Condition
from hourglass.cohort.followup import Cohort
from hourglass.cohort.statement import Duration
from hourglass.cohort.steps.rows import SetAside, SetAsideWhere
from hourglass.core.progress import no_progress
from hourglass.report.planned import statement_kinds
from hourglass.study.commands.follow_up import follow
from hourglass.study.commands.statements import state
from hourglass.study.commands.steps import put_step
from hourglass.study.commands.undoing import undo
from hourglass.study.demos import keep_file
from hourglass.study.duplicating import duplicate
from hourglass.study.plans.applying import BrokenSealError, apply_plan, seal_plan
from hourglass.study.plans.departures import departures
from hourglass.study.plans.document import StudyPlan, plan_of_study, unusable_statements
from hourglass.study.plans.fit import RunPlanFit
from hourglass.study.plans.steps import steps_for_file, with_keys
from hourglass.study.source import source_of
from making import MEANINGS, PLANNED_FOLLOW_UP, table

ROWS = "t,s,arm,age\n" + "".join(
    f"{k + 1},{k % 2},{'ab'[k % 3 == 0]},{40 + k}\n" for k in range(30)
)
BY_HAND = {
    "format": "olden-hourglass plan",
    "version": 1,
    "name": "Before the data",
    "dated": "2026-01-01",
    "follow_up": PLANNED_FOLLOW_UP,
    "analyses": [
        {"stage": "compare", "statement": {"version": 4, "by": "arm"}},
        {
            "stage": "model",
            "statement": {"version": 4, "terms": [{"kind": "number", "column": "age"}]},
        },
    ],
}


def by_hand(**changes):
    return StudyPlan.model_validate_json(json.dumps({**BY_HAND, **changes}))


@pytest.fixture
def planned(repository, blobs):
    """A study of the rows above, by the plan above, sealed before it had data."""
    plan = by_hand().sealed_at(datetime(2025, 5, 1, tzinfo=UTC))
    study = apply_plan(repository, repository.load(repository.create("Planned")), plan, ())
    study, _ = keep_file(repository, blobs, study, "rows.csv", ROWS.encode())
    return study


def test_a_plan_made_before_the_data_is_that_of_the_file_that_comes(planned, blobs):
    assert planned.follow_up == by_hand().follow_up
    assert isinstance(source_of(planned, blobs).cohort(), Cohort)
    assert planned.analysis("compare").body == {"version": 4, "by": "arm"}
    assert departures(planned, STAGES) == []


def test_what_is_decided_otherwise_departs_from_the_sealed_plan(repository, planned):
    data = table(ROWS)
    older = Condition(clauses=(Clause(column="age", test="under", values=("45",)),))
    study = put_step(repository, planned, SetAsideWhere(condition=older))
    age, alone = NumberTerm(column="age", unit=10), NumberTerm(column="age")
    kept = KeptModel(letter="A", model=HazardsModel(terms=(alone,)), note="as planned")
    study = state(repository, study, None, ModelStatement(terms=(age,), kept=(kept,)), data)
    study = follow(repository, study, study.follow_up.model_copy(update={"unit": "days"}), data)
    found = {(d.about, d.planned, d.now) for d in departures(study, STAGES)}
    assert ("Follow-up: unit", "months", "days") in found
    assert ("Model: terms", "age per 1", "age per 10") in found
    assert ("Model A", "", "as planned") in found
    assert any(about == "Step" and not before for about, before, _ in found)
    assert len(found) == 4
    assert departures(duplicate(repository, study, "Copy"), STAGES) == departures(study, STAGES)


def test_a_seal_is_broken_by_any_change_and_undone_like_any_decision(repository, planned):
    sealed = seal_plan(repository, planned)
    document = StudyPlan.model_validate(sealed.snapshot.sealed)
    assert not document.seal_broken
    assert document.sealed.sha256 == plan_of_study(planned).sha256
    changed = document.model_copy(update={"name": "Another"})
    with pytest.raises(BrokenSealError):
        apply_plan(repository, sealed, changed, ())
    assert undo(repository, repository.load(sealed.id)).snapshot.sealed == planned.snapshot.sealed


def test_rows_named_by_number_are_found_again_in_another_file(repository, blobs, planned):
    rows = table(ROWS)
    for step in (SetAside(rows=(3,), why="twice"), SetAside(rows=(5, 30), why="moved away")):
        planned = put_step(repository, planned, step)
    plan = plan_of_study(planned)
    plan = plan.model_copy(update={"steps": with_keys(plan.steps, rows, None)})
    assert [one.placed.step.rows for one in steps_for_file(plan, planned.file.sha256, rows)] == [
        (3,),
        (5, 30),
    ]
    head, *lines = ROWS.splitlines()
    other = table("\n".join([head, "99,1,a,70", *lines[:-1]]))
    found = steps_for_file(plan, "0" * 64, other)
    assert [one.placed.step.rows for one in found] == [(4,), (6,)]
    assert [one.why for one in found] == ["", "1 of its 2 rows are not in this file"]
    gone = steps_for_file(plan, "0" * 64, table("\n".join([head, "99,1,a,70"])))
    assert [one.placed.active for one in gone] == [False, False]
    assert [one.placed.active for one in steps_for_file(plan, None, None)] == [True, True]
    waiting = steps_for_file(plan, None, None)
    study = apply_plan(repository, repository.load(repository.create("Next month")), plan, waiting)
    text = "\n".join([head, "99,1,a,70", *lines[:-1]])
    study, _ = keep_file(repository, blobs, study, "next.csv", text.encode())
    assert [p.step.rows for p in study.steps if p.active] == [(4,), (6,)]


def test_what_does_not_fit_a_file_is_shown_line_by_line(planned, blobs):
    assert set(fit_of(by_hand(), blobs, planned).values()) == {""}
    meanings = {code: meaning.model_dump(mode="json") for code, meaning in MEANINGS.items()}
    gone = {"clock": Duration(column="gone").model_dump(mode="json"), "outcome": "s"}
    fit = fit_of(by_hand(follow_up={**gone, "meanings": meanings}), blobs, planned)
    assert "gone" in fit["Follow-up"]
    assert fit["Model"] == "waits for the follow-up"
    terms = [{"kind": "number", "column": "weight"}]
    model = {"stage": "model", "statement": {"version": 4, "terms": terms}}
    assert "weight" in fit_of(by_hand(analyses=[model]), blobs, planned)["Model"]


def fit_of(plan, blobs, study):
    """Why each part of a plan does not fit a study's file."""
    found = RunPlanFit(source_of(study, blobs), study.file.sha256, plan, STAGES)(no_progress)
    return {line.part: line.why for line in found.lines}


def test_the_example_of_the_documents_is_a_plan():
    text = (Path(__file__).parents[2] / "docs" / "plan.md").read_text("utf-8")
    example = text[text.index('    {\n     "name"') : text.index("*Apply a plan")]
    plan = StudyPlan.model_validate_json(example)
    assert unusable_statements(plan, statement_kinds(STAGES)) == []

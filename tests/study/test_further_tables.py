"""Further tables of a study: kept, changed, undone, copied, archived and planned with it."""

import io

import pytest
from pydantic import TypeAdapter

from hourglass.analysis.registry import STAGES
from hourglass.cohort.reading.packed import packed
from hourglass.cohort.reading.read import read
from hourglass.cohort.records.covariate import Gathered, InForce
from hourglass.cohort.records.joined import JoinedCohort
from hourglass.cohort.records.statement import MAX_TABLES, RecordTable
from hourglass.cohort.statement import Duration, FollowUpStatement
from hourglass.cohort.steps.rows import SetAside
from hourglass.core.errors import UserError
from hourglass.study.actions.union import Action
from hourglass.study.archive import archived, taken_in
from hourglass.study.commands.files import attach_file, kept_file
from hourglass.study.commands.follow_up import follow
from hourglass.study.commands.tables import (
    add_table,
    remove_table,
    set_table_steps,
    state_table,
    with_reference,
)
from hourglass.study.commands.undoing import undo
from hourglass.study.duplicating import duplicate
from hourglass.study.in_memory import BlobsInMemory, InMemory
from hourglass.study.plans.applying import seal_plan
from hourglass.study.plans.departures import departures
from hourglass.study.plans.document import StudyPlan, plan_of_study
from hourglass.study.source import source_of
from making import MEANINGS

ROWS = b"id,t,s\na,5,1\nb,8,0\nc,3,1\n"
VISITS = b"id,at,v\na,0,4\na,2,6\nb,1,9\nc,9,1\n"
STATED = RecordTable(
    name="visits",
    key="id",
    at="at",
    covariates=(InForce(into="v now", column="v"), Gathered(kind="ever", into="seen")),
)


def file_of(blobs, data, name):
    return kept_file(blobs, name, data, packed(read(data, None)))


@pytest.fixture
def with_visits(repository, blobs):
    study = repository.load(repository.create("Visits"))
    study = attach_file(repository, study, file_of(blobs, ROWS, "rows.csv"))
    followed = FollowUpStatement(
        clock=Duration(column="t"), unit="weeks", outcome="s", subject="id", meanings=MEANINGS
    )
    study = follow(repository, study, followed, source_of(study, blobs).table())
    study = add_table(
        repository, study, file_of(blobs, VISITS, "visits.csv"), RecordTable(name="visits")
    )
    study = state_table(repository, study, STATED)
    away = SetAside(rows=(4,), why="after the event")
    return set_table_steps(repository, study, "visits", [away], "a wrong date")


def test_every_decision_on_a_table_comes_back_from_json_and_is_undone(repository, with_visits):
    actions = TypeAdapter(Action)
    study = remove_table(repository, with_visits, "visits")
    made = [d.action for d in study.decisions[-4:]]
    assert [one.sentence for one in made] == [
        "Table visits added: visits.csv",
        "visits: of id, dated at, giving v now (in force of v), seen (ever)",
        "Steps of visits: Set aside: after the event",
        "Table visits removed",
    ]
    assert all(actions.validate_json(actions.dump_json(one)) == one for one in made)
    assert repository.load(study.id).tables == ()
    study = undo(repository, study)
    assert repository.load(study.id).tables == with_visits.tables
    assert undo(repository, study).tables[0].steps == ()
    assert study.waiting is None


def test_rows_of_a_table_part_the_cohort_once_its_steps_are_carried_out(
    repository, blobs, with_visits
):
    found = source_of(with_visits, blobs).joined()
    assert isinstance(found, JoinedCohort), found
    assert found.cohort.table.column("v now").values.tolist()[:2] == [4, 6]
    without = set_table_steps(repository, with_visits, "visits", [])
    blocks = source_of(without, blobs).cohort()
    assert "after the event of their subject" in blocks[0].sentence


def test_tables_go_with_a_copy_an_archive_and_a_plan(repository, blobs, with_visits):
    ours = source_of(with_visits, blobs)
    copy = duplicate(repository, with_visits, "A copy")
    assert source_of(copy, blobs).hash == ours.hash
    elsewhere, their_bytes = InMemory(), BlobsInMemory()
    data = archived(repository, blobs, with_visits.id)
    taken = taken_in(elsewhere, their_bytes, io.BytesIO(data))
    assert source_of(taken, their_bytes).hash == ours.hash
    plan = plan_of_study(with_visits)
    assert StudyPlan.model_validate_json(plan.model_dump_json()) == plan
    assert plan.tables[0].made_on.name == "visits.csv"
    assert plan.sha256 != plan.model_copy(update={"tables": ()}).sha256


def test_a_reference_level_of_a_made_column_is_stated_where_it_is_made(with_visits):
    stated = with_reference(with_visits, "seen", "yes")
    assert [one.reference for one in stated.covariates] == ["", "yes"]
    assert with_reference(with_visits, "t", "5") is None


def test_what_there_is_not_is_refused(repository, blobs, with_visits):
    with pytest.raises(UserError, match="no table called doses"):
        remove_table(repository, with_visits, "doses")
    study = with_visits
    for k in range(MAX_TABLES - 1):
        study = add_table(
            repository, study, file_of(blobs, VISITS, "more.csv"), RecordTable(name=f"more {k}")
        )
    with pytest.raises(UserError, match="remove one first"):
        add_table(repository, study, file_of(blobs, VISITS, "x.csv"), RecordTable(name="x"))


def test_what_departs_from_a_sealed_plan_names_its_tables(repository, with_visits):
    study = seal_plan(repository, with_visits)
    assert departures(study, STAGES) == []
    older = STATED.covariates[0].model_copy(update={"limit": 12.0, "same_time": "last"})
    study = state_table(
        repository, study, STATED.model_copy(update={"covariates": (older, STATED.covariates[1])})
    )
    (found,) = departures(study, STAGES)
    assert found.about == "Table visits"
    assert "v now (in force of v)" in found.planned
    assert "v now (in force of v, several values at one time last, never older than 12" in found.now
    study = remove_table(repository, study, "visits")
    (found,) = departures(study, STAGES)
    assert found.now == ""

"""Commands on steps and analyses, and what they leave in the log."""

from dataclasses import replace

import pytest

from hourglass.analysis.compare.statement import CompareStatement
from hourglass.analysis.registry import STAGES
from hourglass.cohort.steps.apply import StepEffect
from hourglass.cohort.steps.document import PlacedStep
from hourglass.cohort.steps.levels import ReadAsText
from hourglass.cohort.steps.rows import SetAside
from hourglass.cohort.steps.step import BrokenStepError
from hourglass.study.actions.figures import TracksShown
from hourglass.study.actions.statements import StatementsGiven
from hourglass.study.actions.steps import arranged
from hourglass.study.actions.turns import Undone
from hourglass.study.actions.upgrading import EarlierEntry, action_of
from hourglass.study.commands.statements import (
    arrange_analysis,
    begin_analysis,
    remove_analysis,
    state,
)
from hourglass.study.commands.steps import arrange_steps, edit_step, put_step
from hourglass.study.commands.undoing import undo
from hourglass.study.commands.whole import delete, rename, restore
from hourglass.study.plans.decided_since import LastDecisions
from hourglass.study.plans.document import StudyPlan, plan_of_study
from hourglass.study.plans.fit import step_lines
from hourglass.study.plans.mistakes import wrong_places
from hourglass.study.plans.steps import StepForFile
from hourglass.study.source import source_of
from hourglass.study.study import NoSuchAnalysisError, NoSuchStudyError, StaleError, StudySnapshot
from making import table
from study.conftest import CSV

TWICE, ODD = SetAside(rows=(1,), why="twice"), SetAside(rows=(2,), why="odd")


def test_a_study_is_brought_back_unless_it_was_changed_before_it_was_deleted(repository, study):
    found = repository.load(study)
    renamed = rename(repository, found, "Another name")
    with pytest.raises(StaleError) as stale:
        delete(repository, replace(renamed, meanwhile=renamed.decisions[-1:]))
    assert stale.value.since == renamed.decisions[-1:]
    delete(repository, renamed)
    with pytest.raises(NoSuchStudyError):
        repository.load(study)
    restore(repository, study, renamed.revision)
    assert repository.load(study).name == "Another name"


def test_analyses_begin_behind_the_others_and_those_that_are_gone_stay_gone(repository, study):
    found, made = repository.load(study), []
    for name in "ABC":
        found, id = begin_analysis(repository, found, "model", name, None)
        made.append(id)
    places = [found.analysis("model", id).position for id in made]
    assert places == sorted(set(places))
    with pytest.raises(NoSuchAnalysisError):
        arrange_analysis(repository, found, made[0], "A", 1, {"model": max(made) + 1})
    for id in made[:2]:
        found = remove_analysis(repository, repository.load(study), id)
    assert found.snapshot.gone >= set(made[:2])


def test_a_step_is_not_edited_into_one_that_does_not_fit(repository, blobs, study):
    found = put_step(repository, repository.load(study), TWICE)
    source, id = source_of(found, blobs), found.steps[0].id
    with pytest.raises(BrokenStepError):
        edit_step(repository, found, source, id, ReadAsText(column="nowhere"))
    assert repository.load(study).steps[0].step == TWICE


def test_two_neighbours_that_change_places_are_one_move():
    steps = [PlacedStep(id=k, step=SetAside(rows=(k,), why="odd")) for k in (1, 2, 3, 4)]
    swapped = arranged(steps, [steps[1], steps[0], *steps[2:]])
    assert [(m.before, m.after) for m in swapped.moved] == [(2, 1)]
    (far,) = arranged(steps, [steps[3], *steps[:3]]).moved
    assert (far.before, far.after) == (4, 1)
    across = arranged(steps, [steps[2], steps[1], steps[0], steps[3]]).moved
    assert {(m.before, m.after) for m in across} == {(3, 1), (1, 3)}


def test_the_decision_that_took_a_step_away_and_the_one_that_set_a_field_are_found(
    repository, blobs, study
):
    found = put_step(repository, put_step(repository, repository.load(study), TWICE), ODD)
    one, two = (placed.id for placed in found.steps)
    off = arrange_steps(repository, found, {one: False, two: True})
    on = arrange_steps(repository, off, {one: True, two: True})
    assert LastDecisions(on).of_step_gone(TWICE).id == off.decisions[-1].id
    assert LastDecisions(on).of_step_gone(ODD) is None
    rows = source_of(on, blobs).table()
    kinds = {stage.name: stage.statement for stage in STAGES}
    compared = state(repository, on, None, kinds["compare"](by="t"), rows)
    estimated = state(repository, compared, None, kinds["estimate"](by="t"), rows)
    last = LastDecisions(estimated)
    assert last.of_field("compare", "by").id == compared.decisions[-1].id
    assert last.of_field("estimate", "by").id == estimated.decisions[-1].id
    assert last.of_field("model", "by") is None


def test_tracks_that_were_shown_before_are_worded_where_there_were_any():
    shown = ({"id": "survival"},)
    assert TracksShown(view="estimate", after=shown).before_words == ""
    assert TracksShown(view="estimate", before=shown, after=()).before_words == "survival"


def test_a_mistake_in_a_list_is_counted_from_one():
    plan = {"follow_up": {"clock": {"kind": "duration", "column": "t"}}, "steps": [{}, {"step": 1}]}
    with pytest.raises(ValueError, match="validation") as why:
        StudyPlan.model_validate(plan)
    places = " ".join(wrong_places(StudyPlan, why.value))
    assert "step 1" in places.lower()
    assert "step 2" in places.lower()
    assert "step 3" not in places.lower()


def test_steps_of_a_plan_that_do_not_fit_give_the_reason_and_those_that_are_off_are_left_out():
    off = StepForFile(PlacedStep(id=1, step=ODD, active=False))
    on = StepForFile(PlacedStep(id=2, step=TWICE))
    (line,) = step_lines([off, on], [StepEffect(name="", broken="there is no such row")])
    assert (line.part, line.why) == ("Step 2", "there is no such row")


def test_what_an_earlier_program_began_and_undid_is_known():
    now = StudySnapshot(name="A study")
    begun = EarlierEntry(stage="prepare", about="", choice="begun")
    assert action_of(begun, None, now, {}, {}).earlier is False
    assert action_of(begun, None, replace(now, extract=3), {}, {}).earlier is True
    given = StatementsGiven(after={})
    undone = action_of(
        EarlierEntry(stage="prepare", about="", choice="", undoes=4), now, now, {}, {4: given}
    )
    assert isinstance(undone, Undone)
    assert undone.of == given
    again = EarlierEntry(stage="prepare", about="", choice="", undoes=5)
    assert not isinstance(action_of(again, now, now, {}, {5: undone}), Undone)


def test_thresholds_that_were_undone_count_as_tried_and_are_no_entry_of_their_own(
    repository, study
):
    read = table(CSV.decode())

    def stated(found, *thresholds):
        statement = CompareStatement(by="t", thresholds=thresholds)
        return state(repository, found, None, statement, read)

    found = stated(repository.load(study), 1.0)
    found = undo(repository, stated(found, 1.5))
    body = stated(found, 1.25).analysis("compare").body
    assert CompareStatement.read(body).tried_of("t") == 3
    now = repository.load(study)
    assert "tried" not in now.decisions[-1].sentence.lower()
    plan = plan_of_study(now).sealed_at(now.decisions[-1].made_at)
    assert not plan.seal_broken

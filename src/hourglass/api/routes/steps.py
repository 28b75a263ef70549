"""Steps: taken, tried, edited, moved, switched off, undone, exported and applied again."""

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Request
from fastapi.responses import Response
from pydantic import Field

from hourglass.analysis.prepare.step_preview import StepPreview
from hourglass.analysis.shared.typed import Typed
from hourglass.api.changes import Change
from hourglass.api.downloads import download
from hourglass.api.problems import ProblemError
from hourglass.api.replies import answer_or_work
from hourglass.api.routes.decisions import DecisionReading, Reason, made_decision
from hourglass.api.state import State
from hourglass.cohort.carry import refuse_rows_gone
from hourglass.cohort.proposal.waiting import with_waiting_filled
from hourglass.cohort.steps.apply import Step, refuse_broken
from hourglass.cohort.steps.document import StepsDocument
from hourglass.cohort.steps.form import StepForm
from hourglass.cohort.steps.forms import FORMS
from hourglass.study.changing import arrange_steps as arranged_steps
from hourglass.study.changing import name_level
from hourglass.study.changing import take_step as taken
from hourglass.study.hashes import hash_of
from hourglass.study.plans.applying import apply_steps_document, steps_document_of
from hourglass.study.source import Source
from hourglass.study.study import Study
from hourglass.study.tasks import RunPreview
from hourglass.study.work import WorkReading

router = APIRouter(tags=["steps"])


class NewStep(Typed):
    """A step to take, and why."""

    step: Step
    reason: Reason = ""


class TriedStep(Typed):
    """A step to try; ``instead_of`` is the id of the step it would take the place of."""

    step: Step
    instead_of: int | None = None


class PreviewReply(Typed):
    """What a step would do, or the work that finds it out."""

    preview: StepPreview | None = None
    work: WorkReading | None = None


class NewLevelName(Typed):
    """What a level of a category is to be called."""

    column: Annotated[str, Field(max_length=1000)]
    level: Annotated[str, Field(max_length=1000)]
    name: Annotated[str, Field(min_length=1, max_length=300)]


class StepPlace(Typed):
    """A step's id, and whether it is on."""

    id: int
    active: bool


class Arrangement(Typed):
    """The steps that stay, in their order."""

    what: Annotated[str, Field(min_length=1, max_length=200)]
    steps: Annotated[list[StepPlace], Field(max_length=2000)]


@router.get("/api/step-forms")
def step_forms() -> list[StepForm]:
    """How each step is written by hand, in the order they are offered."""
    return list(FORMS)


@router.post("/api/studies/{study_id}/steps", status_code=201)
def take_step(request: Request, change: Change, new: NewStep) -> DecisionReading:
    """Take a step after all others."""
    state: State = request.app.state.hourglass
    study = change.with_file()
    source = state.results.source(study)
    refuse_rows_gone(new.step, source.after_steps())
    after, effects = source.with_steps((*source.steps, new.step)).applied()
    refuse_broken(effects[-1:])
    follow_up = with_waiting_filled(study.follow_up, source.after_steps(), after)
    made = taken(state.keeping, study, "taken", new.step, new.reason, follow_up=follow_up)
    return made_decision(change.made(made))


@router.put("/api/studies/{study_id}/steps/{step_id}", status_code=201)
def edit_step(request: Request, change: Change, step_id: int, new: NewStep) -> DecisionReading:
    """Put a step in the place of another. Later steps that it breaks say so and stay."""
    state: State = request.app.state.hourglass
    study = change.with_file()
    before = _before(state, study, step_id)
    refuse_rows_gone(new.step, before.after_steps())
    refuse_broken(before.with_steps((*before.steps, new.step)).applied()[1][-1:])
    edited = taken(state.keeping, study, "edited", new.step, new.reason, instead_of=step_id)
    return made_decision(change.made(edited))


@router.post("/api/studies/{study_id}/level-names", status_code=201)
def put_level_name(request: Request, change: Change, new: NewLevelName) -> DecisionReading:
    """Give a level of a category another name, in all stages: a step in Prepare."""
    state: State = request.app.state.hourglass
    study = change.with_file()
    table = state.results.source(study).after_steps()
    named = name_level(state.keeping, study, table, new.column, new.level, new.name)
    return made_decision(change.made(named))


@router.post("/api/studies/{study_id}/steps/preview")
def try_step(request: Request, study_id: UUID, tried: TriedStep) -> PreviewReply:
    """What a step would do, or the work that finds it out; nothing is changed."""
    state: State = request.app.state.hourglass
    study = state.with_file(study_id)
    source = (
        state.results.source(study)
        if tried.instead_of is None
        else _before(state, study, tried.instead_of)
    )
    key = ("preview", source.hash, hash_of(tried.step.model_dump(mode="json")))
    preview, work = answer_or_work(state.results.answer(key, RunPreview(source, tried.step)))
    return PreviewReply(preview=preview, work=work)


@router.put("/api/studies/{study_id}/steps", status_code=204)
def arrange_steps(request: Request, change: Change, wanted: Arrangement) -> None:
    """Move, switch or remove steps: those named stay, in the order given."""
    state: State = request.app.state.hourglass
    study = change.with_file()
    there = {placed.id: placed for placed in study.steps}
    ids = [place.id for place in wanted.steps]
    if not set(ids) <= set(there) or len(set(ids)) < len(ids):
        raise ProblemError(
            409, "steps-changed", "The steps have changed", "The steps have changed: reload."
        )
    arranged = [there[p.id].model_copy(update={"active": p.active}) for p in wanted.steps]
    change.made(arranged_steps(state.keeping, study, wanted.what, arranged))


@router.get("/api/studies/{study_id}/steps.json")
def steps_document(request: Request, study_id: UUID) -> Response:
    """The follow-up statement and the steps, as a document that can be applied to another file."""
    state: State = request.app.state.hourglass
    study = state.with_file(study_id)
    table = state.results.source(study).table()
    body = steps_document_of(study, table).model_dump_json(indent=1)
    return download(body, "application/json", study.name, "steps.json")


@router.put("/api/studies/{study_id}/steps.json", status_code=201)
def apply_document(request: Request, change: Change, document: StepsDocument) -> DecisionReading:
    """Put a document's steps and follow-up statement in the place of those that there are."""
    state: State = request.app.state.hourglass
    study = change.with_file()
    table = state.results.source(study).table()
    applied = apply_steps_document(state.keeping, study, document, table)
    return made_decision(change.made(applied))


def _before(state: State, study: Study, step_id: int) -> Source:
    """The table with the steps before one of them."""
    before: list[Step] = []
    for placed in study.steps:
        if placed.id == step_id:
            return state.results.source(study).with_steps(before)
        if placed.active:
            before.append(placed.step)
    raise ProblemError(409, "steps-changed", "The steps have changed", "That step is gone: reload.")

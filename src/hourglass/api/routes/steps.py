"""Steps: taken, tried, edited, moved, switched off, undone, exported and applied again."""

from typing import Annotated

from fastapi import APIRouter, Request
from fastapi.responses import Response
from pydantic import Field

from hourglass.analysis.prepare.step_preview import StepPreview
from hourglass.analysis.shared.frozen_model import FrozenModel
from hourglass.api.changes import Change
from hourglass.api.downloads import download
from hourglass.api.found_study import StudyWithFile
from hourglass.api.replies import answer_or_work
from hourglass.api.routes.decisions import DecisionView, Reason, made_decision
from hourglass.api.state import State, having_file
from hourglass.cohort.steps.apply import Step
from hourglass.cohort.steps.document import StepsDocument
from hourglass.cohort.steps.form import StepForm
from hourglass.cohort.steps.forms import FORMS
from hourglass.core.errors import UserError
from hourglass.study.commands.steps import STEPS_CHANGED, name_level, source_before
from hourglass.study.commands.steps import arrange_steps as arranged_steps
from hourglass.study.commands.steps import edit_step as edited
from hourglass.study.commands.steps import take_step as taken
from hourglass.study.hashes import hash_of
from hourglass.study.plans.applying import apply_steps_document, steps_document_of
from hourglass.study.plans.placing import placed_steps, plan_naming_rows
from hourglass.study.study import Study
from hourglass.study.tasks import RunPreview
from hourglass.study.work import WorkView

router = APIRouter(tags=["steps"])


class NewStep(FrozenModel):
    """A step to take, and why."""

    step: Step
    reason: Reason = ""


class TriedStep(FrozenModel):
    """A step to try; ``instead_of`` is the id of the step it would take the place of."""

    step: Step
    instead_of: int | None = None


class PreviewReply(FrozenModel):
    """What a step would do, or the work that finds it out."""

    preview: StepPreview | None = None
    work: WorkView | None = None


class NewLevelName(FrozenModel):
    """What a level of a category is to be called."""

    column: Annotated[str, Field(max_length=1000)]
    level: Annotated[str, Field(max_length=1000)]
    name: Annotated[str, Field(min_length=1, max_length=300)]


class StepPlace(FrozenModel):
    """A step's id, and whether it is on."""

    id: int
    active: bool


class Arrangement(FrozenModel):
    """The steps that stay, in their order."""

    steps: Annotated[list[StepPlace], Field(max_length=2000)]


@router.get("/api/step-forms")
def step_forms() -> list[StepForm]:
    """How each step is written by hand, in the order they are offered."""
    return list(FORMS)


@router.post("/api/studies/{study_id}/steps", status_code=201)
def take_step(request: Request, change: Change, new: NewStep) -> DecisionView:
    """Take a step after all others."""
    state: State = request.app.state.hourglass

    def command(study: Study) -> Study:
        source = state.results.source(having_file(study))
        return taken(state.repository, study, source, new.step, new.reason)

    return made_decision(change.carry_out(command))


@router.put("/api/studies/{study_id}/steps/{step_id}", status_code=201)
def edit_step(request: Request, change: Change, step_id: int, new: NewStep) -> DecisionView:
    """Put a step in the place of another. Later steps that it breaks carry a message and stay."""
    state: State = request.app.state.hourglass

    def command(study: Study) -> Study:
        source = state.results.source(having_file(study))
        return edited(state.repository, study, source, step_id, new.step, new.reason)

    return made_decision(change.carry_out(command))


@router.post("/api/studies/{study_id}/level-names", status_code=201)
def put_level_name(request: Request, change: Change, new: NewLevelName) -> DecisionView:
    """Give a level of a category another name, in all stages: a step in Prepare."""
    state: State = request.app.state.hourglass

    def command(study: Study) -> Study:
        table = state.results.source(having_file(study)).after_steps()
        return name_level(state.repository, study, table, new.column, new.level, new.name)

    return made_decision(change.carry_out(command))


@router.post("/api/studies/{study_id}/steps/preview")
def try_step(request: Request, study: StudyWithFile, tried: TriedStep) -> PreviewReply:
    """What a step would do, or the work that finds it out; nothing is changed."""
    state: State = request.app.state.hourglass
    source = state.results.source(study)
    if tried.instead_of is not None:
        source = source_before(study, source, tried.instead_of)
    key = ("preview", source.hash, hash_of(tried.step.model_dump(mode="json")))
    preview, work = answer_or_work(state.results.answer(key, RunPreview(source, tried.step)))
    return PreviewReply(preview=preview, work=work)


@router.put("/api/studies/{study_id}/steps", status_code=204)
def arrange_steps(request: Request, change: Change, wanted: Arrangement) -> None:
    """Move, switch or remove steps: those named stay, in the order given."""
    state: State = request.app.state.hourglass
    ids = [place.id for place in wanted.steps]
    if len(set(ids)) < len(ids):
        raise UserError("A step is named twice: reload.", STEPS_CHANGED, "steps")
    places = {place.id: place.active for place in wanted.steps}
    change.carry_out(lambda study: arranged_steps(state.repository, study, places))


@router.get("/api/studies/{study_id}/steps.json")
def steps_document(request: Request, study: StudyWithFile) -> Response:
    """The follow-up statement and the steps, as a document that can be applied to another file."""
    state: State = request.app.state.hourglass
    body = steps_document_of(plan_naming_rows(state.results, study)).model_dump_json(indent=1)
    return download(body, "application/json", study.name, "steps.json")


@router.put("/api/studies/{study_id}/steps.json", status_code=201)
def apply_document(request: Request, change: Change, document: StepsDocument) -> DecisionView:
    """Put a document's steps and follow-up statement in the place of those that there are."""
    state: State = request.app.state.hourglass

    def command(study: Study) -> Study:
        source, file = state.results.source(having_file(study)), study.file
        assert file is not None
        fitted = placed_steps(state.results, source, document, file.sha256)
        return apply_steps_document(state.repository, study, document, fitted)

    return made_decision(change.carry_out(command))

"""Steps: taken, tried, edited, moved, switched off, undone, exported and applied again."""

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Request
from fastapi.responses import Response
from pydantic import Field

from hourglass.analysis.step_preview import StepPreview, preview_step
from hourglass.analysis.typed import Typed
from hourglass.api.desk import Desk
from hourglass.api.problems import ProblemError
from hourglass.api.routes.decisions import DecisionReading, Reason, made_decision
from hourglass.api.routes.prepare import with_file
from hourglass.cohort.steps.apply import Step, apply_steps, refuse_broken
from hourglass.cohort.steps.plan import PlacedStep, Plan, PlannedStep
from hourglass.cohort.table import Table
from hourglass.store import steps as kept
from hourglass.store import studies
from hourglass.store.studies import Study

router = APIRouter(tags=["steps"])


class NewStep(Typed):
    """A step to take, and why."""

    step: Step
    reason: Reason = ""


class TriedStep(Typed):
    """A step to try; ``instead_of`` is the id of the step it would take the place of."""

    step: Step
    instead_of: int | None = None


class Place(Typed):
    """A step's id, and whether it is on."""

    id: int
    active: bool


class Arrangement(Typed):
    """The steps that stay, in their order."""

    what: Annotated[str, Field(min_length=1, max_length=200)]
    steps: Annotated[list[Place], Field(max_length=2000)]


@router.post("/api/studies/{study_id}/steps", status_code=201)
def take_step(request: Request, study_id: UUID, new: NewStep) -> DecisionReading:
    """Take a step after all others."""
    desk: Desk = request.app.state.desk
    study = with_file(desk, study_id)
    refuse_broken(apply_steps(desk.after_steps(study), [new.step])[1])
    with desk.db() as db:
        made = studies.decide(
            db,
            study_id,
            "prepare",
            "step",
            "taken",
            new.step.named()[:1000],
            new.reason,
            [new.step],
        )
    return made_decision(desk, study_id, made)


@router.put("/api/studies/{study_id}/steps/{step_id}", status_code=201)
def edit_step(request: Request, study_id: UUID, step_id: int, new: NewStep) -> DecisionReading:
    """Put a step in the place of another. Later steps that it breaks say so and stay."""
    desk: Desk = request.app.state.desk
    study = with_file(desk, study_id)
    refuse_broken(apply_steps(_before(desk, study, step_id), [new.step])[1])
    with desk.db() as db:
        made = studies.decide(
            db,
            study_id,
            "prepare",
            "step",
            "edited",
            new.step.named()[:1000],
            new.reason,
            [new.step],
            instead_of=step_id,
        )
    return made_decision(desk, study_id, made)


@router.post("/api/studies/{study_id}/steps/preview")
def try_step(request: Request, study_id: UUID, tried: TriedStep) -> StepPreview:
    """What a step would do; nothing is changed."""
    desk: Desk = request.app.state.desk
    study = with_file(desk, study_id)
    table = (
        desk.after_steps(study)
        if tried.instead_of is None
        else _before(desk, study, tried.instead_of)
    )
    return preview_step(table, tried.step, study.follow_up)


@router.put("/api/studies/{study_id}/steps", status_code=204)
def arrange_steps(request: Request, study_id: UUID, wanted: Arrangement) -> None:
    """Move, switch or remove steps: those named stay, in the order given."""
    desk: Desk = request.app.state.desk
    study = with_file(desk, study_id)
    assert study.file is not None
    there = {placed.id: placed for placed in study.steps}
    ids = [place.id for place in wanted.steps]
    if not set(ids) <= set(there) or len(set(ids)) < len(ids):
        raise ProblemError(
            409, "steps-changed", "The steps have changed", "The steps have changed: reload."
        )
    arranged = [there[p.id].model_copy(update={"active": p.active}) for p in wanted.steps]
    with desk.db() as db:
        kept.revise(db, study.file.id, wanted.what, arranged)


@router.post("/api/studies/{study_id}/steps/undo", status_code=204)
def undo(request: Request, study_id: UUID) -> None:
    """Go back to the steps as they were before the last change."""
    _move(request, study_id, -1)


@router.post("/api/studies/{study_id}/steps/redo", status_code=204)
def redo(request: Request, study_id: UUID) -> None:
    """Take back the last undoing."""
    _move(request, study_id, 1)


def _move(request: Request, study_id: UUID, by: int) -> None:
    desk: Desk = request.app.state.desk
    study = with_file(desk, study_id)
    assert study.file is not None
    with desk.db() as db:
        kept.undo(db, study.file.id, by)


@router.get("/api/studies/{study_id}/plan")
def export_plan(request: Request, study_id: UUID) -> Response:
    """The follow-up statement and the steps, as a document that can be applied to another file."""
    desk: Desk = request.app.state.desk
    study = with_file(desk, study_id)
    reasons = {d.id: d.reason for d in study.decisions}
    plan = Plan(
        follow_up=study.follow_up,
        steps=tuple(
            PlannedStep(step=p.step, active=p.active, reason=reasons.get(p.decision or 0, ""))
            for p in study.steps
        ),
    )
    return Response(
        plan.model_dump_json(indent=1),
        media_type="application/json",
        headers={"Content-Disposition": 'attachment; filename="steps.json"'},
    )


@router.post("/api/studies/{study_id}/plan", status_code=201)
def apply_plan(request: Request, study_id: UUID, plan: Plan) -> DecisionReading:
    """Put an exported plan in the place of all steps and of the follow-up statement."""
    desk: Desk = request.app.state.desk
    study = with_file(desk, study_id)
    assert study.file is not None
    sentence = f"Steps applied from a document: {len(plan.steps)}"
    with desk.db() as db, db.transaction():
        made = studies.decide(db, study_id, "prepare", "plan", "applied", sentence, "")
        new = [PlacedStep(step=p.step, active=p.active, decision=made) for p in plan.steps]
        kept.revise(db, study.file.id, sentence, new)
        studies.put_statement(db, study_id, "prepare", plan.follow_up)
    return made_decision(desk, study_id, made)


def _before(desk: Desk, study: Study, step_id: int) -> Table:
    """The table as the steps before one of them have left it."""
    before: list[Step] = []
    for placed in study.steps:
        if placed.id == step_id:
            return apply_steps(desk.table(study), before)[0]
        if placed.active:
            before.append(placed.step)
    raise ProblemError(409, "steps-changed", "The steps have changed", "That step is gone: reload.")

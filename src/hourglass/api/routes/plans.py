"""Plans: saved, set against a study's file, applied, sealed."""

from datetime import datetime
from typing import Annotated

from fastapi import APIRouter, Body, Request
from fastapi.responses import Response

from hourglass.analysis.shared.frozen_model import FrozenModel
from hourglass.api.changes import Change
from hourglass.api.downloads import download
from hourglass.api.found_study import FoundStudy
from hourglass.api.problems import ProblemError
from hourglass.api.replies import answer_or_work
from hourglass.api.routes.decisions import DecisionView, made_decision
from hourglass.api.state import State
from hourglass.report.planned import unusable
from hourglass.study.hashes import hash_of
from hourglass.study.plans.applying import BrokenSealError, apply_plan, seal_plan
from hourglass.study.plans.departures import Departure, departures_of, in_words
from hourglass.study.plans.document import StudyPlan, sealed_plan
from hourglass.study.plans.fit import PlanFit, RunPlanFit
from hourglass.study.plans.placing import placed_steps, plan_naming_rows
from hourglass.study.study import Study
from hourglass.study.work import WorkView

router = APIRouter(tags=["plans"])
Given = Annotated[StudyPlan, Body(description="A plan, as it was saved or written by hand.")]


class PlanView(FrozenModel):
    """The plan in place of a study.

    Attributes:
        applied: what the plan that was applied last is called; blank without one.
        sealed_at, sha256: when the plan was sealed, and its hash; None and blank where it was not.
        departures: what departs from it; ``words``: how much that is, blank where it was not sealed.
    """

    applied: str
    sealed_at: datetime | None
    sha256: str
    departures: list[Departure]
    words: str


class FitReply(FrozenModel):
    """How a plan fits the study's file, or the work that will find out; neither without a file."""

    fit: PlanFit | None = None
    work: WorkView | None = None


@router.get("/api/studies/{study_id}/plan.json", response_class=Response)
def study_plan(request: Request, study: FoundStudy) -> Response:
    """All that makes the study's results from its file, as a document that can be run on another."""
    state: State = request.app.state.hourglass
    body = plan_naming_rows(state.results, study).model_dump_json(indent=1)
    return download(body, "application/json", study.name, "plan.json")


@router.get("/api/studies/{study_id}/sealed-plan.json", response_class=Response)
def saved_sealed_plan(request: Request, study: FoundStudy) -> Response:
    """The plan that was sealed, with its seal."""
    sealed = sealed_plan(study)
    if sealed is None:
        raise ProblemError(404, "no-seal", "No sealed plan", "No plan of this study was sealed.")
    body = sealed.model_dump_json(indent=1)
    return download(body, "application/json", study.name, "sealed plan.json")


@router.get("/api/studies/{study_id}/plan-in-place")
def plan_in_place(request: Request, study: FoundStudy) -> PlanView:
    """Whether a plan was applied and sealed, and what departs from it."""
    state: State = request.app.state.hourglass
    planned, sealed = study.snapshot.planned, sealed_plan(study)
    found = departures_of(state.results, study)
    seal = None if sealed is None else sealed.sealed
    return PlanView(
        applied="" if planned is None else str(planned["name"]),
        sealed_at=None if seal is None else seal.at,
        sha256="" if seal is None else seal.sha256,
        departures=found,
        words="" if seal is None else in_words(found),
    )


@router.post("/api/studies/{study_id}/plan-fit")
def plan_fit(request: Request, study: FoundStudy, plan: Given) -> FitReply:
    """What of a plan fits the study's file, and what does not; nothing is changed."""
    state: State = request.app.state.hourglass
    _refuse_unusable(state, plan)
    if study.file is None:
        return FitReply()
    task = RunPlanFit(state.results.source(study), study.file.sha256, plan, state.stages)
    key = ("plan-fit", study.file.table_sha256, hash_of(plan.model_dump(mode="json")))
    found = state.results.answer(key, task)
    fit, work = answer_or_work(found)
    return FitReply(fit=fit, work=work)


@router.put("/api/studies/{study_id}/plan-in-place", status_code=201)
def put_plan(request: Request, change: Change, plan: Given) -> DecisionView:
    """Put a plan in the place of everything that was decided in a study, but its name and file."""
    state: State = request.app.state.hourglass
    _refuse_unusable(state, plan)

    def command(study: Study) -> Study:
        sha256 = None if study.file is None else study.file.sha256
        steps = placed_steps(state.results, state.results.source(study), plan, sha256)
        return apply_plan(state.repository, study, plan, steps)

    return made_decision(change.carry_out(command))


@router.post("/api/studies/{study_id}/seal", status_code=201)
def seal(request: Request, change: Change) -> DecisionView:
    """Seal the study's plan as it stands: with the moment and its hash."""
    state: State = request.app.state.hourglass

    def command(study: Study) -> Study:
        plan = plan_naming_rows(state.results, state.results.stated(study))
        return seal_plan(state.repository, study, plan)

    return made_decision(change.carry_out(command))


def _refuse_unusable(state: State, plan: StudyPlan) -> None:
    wrong = unusable(plan, state.stages)
    if wrong:
        raise ProblemError(422, "unusable-plan", "The plan cannot be used", wrong[0])
    if plan.seal_broken:
        raise BrokenSealError

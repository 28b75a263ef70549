"""The decisions log."""

from datetime import datetime
from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Request
from pydantic import Field

from hourglass.analysis.statements import Stage
from hourglass.analysis.typed import Typed
from hourglass.api.desk import Desk
from hourglass.api.problems import ProblemError
from hourglass.store import studies

router = APIRouter(tags=["decisions"])
Reason = Annotated[str, Field(max_length=2000)]


class NewDecision(Typed):
    """A decision about a caution, a check or a model."""

    stage: Stage
    about: Annotated[str, Field(min_length=1, max_length=200)]
    choice: Annotated[str, Field(min_length=1, max_length=40)]
    sentence: Annotated[str, Field(min_length=1, max_length=1000)]
    reason: Reason = ""


class DecisionReading(Typed):
    """An entry of the decisions log."""

    id: int
    stage: Stage
    about: str
    choice: str
    sentence: str
    reason: str
    made_at: datetime
    withdrawn_at: datetime | None


@router.post("/api/studies/{study_id}/decisions", status_code=201)
def log_decision(request: Request, study_id: UUID, new: NewDecision) -> DecisionReading:
    """Record a decision that needs no step, with its reason."""
    desk: Desk = request.app.state.desk
    if new.stage == "prepare" and new.choice == "keep":
        raise ProblemError(
            422, "finding-decision", "Decided elsewhere", "A finding is decided among the findings."
        )
    with desk.db() as db:
        made = studies.decide(
            db, study_id, new.stage, new.about, new.choice, new.sentence, new.reason
        )
    return made_decision(desk, study_id, made)


@router.get("/api/studies/{study_id}/decisions")
def decisions(request: Request, study_id: UUID) -> list[DecisionReading]:
    """The decisions log, oldest first, withdrawn ones included."""
    desk: Desk = request.app.state.desk
    return [DecisionReading.model_validate(d) for d in desk.study(study_id).decisions]


@router.delete("/api/studies/{study_id}/decisions/{decision}", status_code=204)
def withdraw(request: Request, study_id: UUID, decision: int) -> None:
    """Take a decision back, with its steps."""
    desk: Desk = request.app.state.desk
    with desk.db() as db:
        studies.withdraw(db, study_id, decision)


def made_decision(desk: Desk, study_id: UUID, decision: int) -> DecisionReading:
    """A decision as it was logged."""
    made = next(d for d in desk.study(study_id).decisions if d.id == decision)
    return DecisionReading.model_validate(made)

"""The decisions log."""

from datetime import datetime
from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Request
from pydantic import Field

from hourglass.analysis.shared.typed import Typed
from hourglass.api.problems import ProblemError
from hourglass.api.state import State
from hourglass.study.changing import decide, withdraw
from hourglass.study.keeping import NewDecision as Logged

router = APIRouter(tags=["decisions"])
Reason = Annotated[str, Field(max_length=2000)]


class NewDecision(Typed):
    """A decision about a caution, a check or a model."""

    stage: Annotated[str, Field(min_length=1, max_length=60)]
    about: Annotated[str, Field(min_length=1, max_length=200)]
    choice: Annotated[str, Field(min_length=1, max_length=40)]
    sentence: Annotated[str, Field(min_length=1, max_length=1000)]
    reason: Reason = ""


class DecisionReading(Typed):
    """An entry of the decisions log."""

    id: int
    stage: str
    about: str
    choice: str
    sentence: str
    reason: str
    made_at: datetime
    withdrawn_at: datetime | None


@router.post("/api/studies/{study_id}/decisions", status_code=201)
def log_decision(request: Request, study_id: UUID, new: NewDecision) -> DecisionReading:
    """Record a decision that needs no step, with its reason."""
    state: State = request.app.state.hourglass
    if new.stage == "prepare" and new.choice == "keep":
        raise ProblemError(
            422, "finding-decision", "Decided elsewhere", "A finding is decided among the findings."
        )
    decision = Logged(new.stage, new.about, new.choice, new.sentence, new.reason)
    return made_decision(state, study_id, decide(state.keeping, study_id, decision))


@router.get("/api/studies/{study_id}/decisions")
def decisions(request: Request, study_id: UUID) -> list[DecisionReading]:
    """The decisions log, oldest first, withdrawn ones included."""
    state: State = request.app.state.hourglass
    return [DecisionReading.model_validate(d) for d in state.keeping.load(study_id).decisions]


@router.delete("/api/studies/{study_id}/decisions/{decision}", status_code=204)
def withdraw_decision(request: Request, study_id: UUID, decision: int) -> None:
    """Take a decision back, with its steps."""
    state: State = request.app.state.hourglass
    withdraw(state.keeping, study_id, decision)


def made_decision(state: State, study_id: UUID, decision: int) -> DecisionReading:
    """A decision as it was logged."""
    made = next(d for d in state.keeping.load(study_id).decisions if d.id == decision)
    return DecisionReading.model_validate(made)

"""The decisions log."""

from datetime import datetime
from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Request
from pydantic import Field

from hourglass.analysis.shared.typed import Typed
from hourglass.api.changes import Change
from hourglass.api.problems import ProblemError
from hourglass.api.state import State
from hourglass.study.changing import decide, withdraw
from hourglass.study.history import BEGUN, PLAIN, History
from hourglass.study.history import Decision as Kept
from hourglass.study.history import NewDecision as Logged
from hourglass.study.study import Study
from hourglass.study.undoing import redo, undo

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
    """An entry of the decisions log.

    ``gone_at`` says when it was undone or withdrawn; ``can_withdraw`` whether it can be taken back
    on its own.
    """

    id: int
    stage: str
    about: str
    choice: str
    sentence: str
    reason: str
    before: str
    after: str
    made_at: datetime
    gone_at: datetime | None
    can_withdraw: bool


class LogReading(Typed):
    """The decisions log, oldest first, and what would be undone and redone next."""

    decisions: list[DecisionReading]
    undo: str | None
    redo: str | None


class Moved(Typed):
    """What was undone or redone, and in which stage."""

    stage: str
    sentence: str


@router.post("/api/studies/{study_id}/decisions", status_code=201)
def log_decision(request: Request, change: Change, new: NewDecision) -> DecisionReading:
    """Record a decision that needs no step, with its reason."""
    state: State = request.app.state.hourglass
    if new.stage == "prepare" and new.choice == "keep":
        raise ProblemError(
            422, "finding-decision", "Decided elsewhere", "A finding is decided among the findings."
        )
    decision = Logged(
        stage=new.stage,
        about=new.about,
        choice=new.choice,
        sentence=new.sentence,
        reason=new.reason,
    )
    return made_decision(change.made(decide(state.keeping, change.study, decision)))


@router.get("/api/studies/{study_id}/decisions")
def decisions(request: Request, study_id: UUID) -> LogReading:
    """The decisions log: what was decided, how it read before and after, why and when."""
    state: State = request.app.state.hourglass
    study = state.keeping.load(study_id)
    history = study.history
    return LogReading(
        decisions=[
            _reading(d, history)
            for d in study.decisions
            if d.undoes is None and d.redoes is None and d.choice != BEGUN
        ],
        undo=None if history.undo is None else history.undo.sentence,
        redo=None if history.redo is None else history.redo.sentence,
    )


@router.delete("/api/studies/{study_id}/decisions/{decision}", status_code=204)
def withdraw_decision(request: Request, change: Change, decision: int) -> None:
    """Take a decision back, with its steps."""
    state: State = request.app.state.hourglass
    change.made(withdraw(state.keeping, change.study, decision))


@router.post("/api/studies/{study_id}/undo")
def undo_change(request: Request, change: Change) -> Moved:
    """Take back the last change to the study, whatever it was."""
    state: State = request.app.state.hourglass
    last = change.study.history.undo
    change.made(undo(state.keeping, change.study))
    assert last is not None
    return Moved(stage=last.stage, sentence=last.sentence)


@router.post("/api/studies/{study_id}/redo")
def redo_change(request: Request, change: Change) -> Moved:
    """Do again what was undone last."""
    state: State = request.app.state.hourglass
    following = change.study.history.redo
    change.made(redo(state.keeping, change.study))
    assert following is not None
    return Moved(stage=following.stage, sentence=following.sentence)


def made_decision(study: Study) -> DecisionReading:
    """The decision that a change has just made."""
    return _reading(study.decisions[-1], study.history)


def _reading(decision: Kept, history: History) -> DecisionReading:
    return DecisionReading(
        id=decision.id,
        stage=decision.stage,
        about=decision.about,
        choice=decision.choice,
        sentence=decision.sentence,
        reason=decision.reason,
        before=decision.before,
        after=decision.after,
        made_at=decision.made_at,
        gone_at=history.gone_at.get(decision.id),
        can_withdraw=decision.choice not in PLAIN and decision.id not in history.gone_at,
    )

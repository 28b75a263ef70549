"""The decisions log."""

from datetime import datetime
from typing import Annotated

from fastapi import APIRouter, Request
from pydantic import Field

from hourglass.analysis.shared.frozen_model import FrozenModel
from hourglass.api.changes import Change
from hourglass.api.found_study import FoundStudy
from hourglass.api.problems import ProblemError
from hourglass.api.state import State
from hourglass.cohort.words import cut
from hourglass.study.actions.action import PREPARE
from hourglass.study.actions.statements import Answered
from hourglass.study.actions.turns import Redone, StudyBegun, Undone
from hourglass.study.commands.statements import answer
from hourglass.study.commands.steps import withdraw
from hourglass.study.commands.undoing import redo, undo
from hourglass.study.history import MAX_SENTENCE_CHARACTERS, History
from hourglass.study.history import Decision as Kept
from hourglass.study.study import Study

router = APIRouter(tags=["decisions"])
Reason = Annotated[str, Field(max_length=2000)]


class NewDecision(FrozenModel):
    """A decision about a caution, a check or a model."""

    stage: Annotated[str, Field(min_length=1, max_length=60)]
    about: Annotated[str, Field(min_length=1, max_length=200)]
    choice: Annotated[str, Field(min_length=1, max_length=40)]
    sentence: Annotated[str, Field(min_length=1, max_length=1000)]
    reason: Reason = ""


class DecisionView(FrozenModel):
    """An entry of the decisions log.

    ``kind`` is what was done, ``about`` what it is about, as keys; ``before`` is how what was changed read,
    where the sentence does not state it. ``gone_at`` states when it was undone or withdrawn; ``can_withdraw``
    whether it can be taken back on its own.
    """

    id: int
    stage: str
    kind: str
    about: str
    sentence: str
    reason: str
    before: str
    made_at: datetime
    gone_at: datetime | None
    can_withdraw: bool


class LogView(FrozenModel):
    """The decisions log, oldest first, and what would be undone and redone next."""

    decisions: list[DecisionView]
    undo: str | None
    redo: str | None


class Moved(FrozenModel):
    """What was undone or redone, and in which stage."""

    stage: str
    sentence: str


@router.post("/api/studies/{study_id}/decisions", status_code=201)
def log_decision(request: Request, change: Change, new: NewDecision) -> DecisionView:
    """Record a decision that needs no step, with its reason."""
    state: State = request.app.state.hourglass
    if new.stage == PREPARE:
        raise ProblemError(
            422, "finding-decision", "Decided elsewhere", "A finding is decided among the findings."
        )
    action = Answered(stage=new.stage, subject=new.about, choice=new.choice, words=new.sentence)
    return made_decision(
        change.carry_out(lambda study: answer(state.repository, study, action, new.reason))
    )


@router.get("/api/studies/{study_id}/decisions")
def decisions(request: Request, study: FoundStudy) -> LogView:
    """The decisions log: what was decided, how it read before and after, why and when."""
    history = study.history
    return LogView(
        decisions=[
            _reading(d, history)
            for d in study.decisions
            if not isinstance(d.action, StudyBegun | Undone | Redone)
        ],
        undo=None if history.undo is None else history.undo.sentence,
        redo=None if history.redo is None else history.redo.sentence,
    )


@router.delete("/api/studies/{study_id}/decisions/{decision}", status_code=204)
def withdraw_decision(request: Request, change: Change, decision: int) -> None:
    """Take a decision back, with its steps."""
    state: State = request.app.state.hourglass
    change.carry_out(lambda study: withdraw(state.repository, study, decision))


@router.post("/api/studies/{study_id}/undo")
def undo_change(request: Request, change: Change) -> Moved:
    """Take back the last change to the study, whatever it was."""
    state: State = request.app.state.hourglass
    return _moved(change.carry_out(lambda study: undo(state.repository, study)))


@router.post("/api/studies/{study_id}/redo")
def redo_change(request: Request, change: Change) -> Moved:
    """Do again what was undone last."""
    state: State = request.app.state.hourglass
    return _moved(change.carry_out(lambda study: redo(state.repository, study)))


def _moved(study: Study) -> Moved:
    """What the last entry of the log undoes or redoes, by its own sentence."""
    turn = study.decisions[-1].action
    assert isinstance(turn, Undone | Redone)
    return Moved(stage=turn.where, sentence=cut(turn.of.sentence, MAX_SENTENCE_CHARACTERS))


def made_decision(study: Study) -> DecisionView:
    """The decision that a change has just made."""
    return _reading(study.decisions[-1], study.history)


def _reading(decision: Kept, history: History) -> DecisionView:
    return DecisionView(
        id=decision.id,
        stage=decision.stage,
        kind=decision.action.kind,
        about=decision.action.about,
        sentence=decision.sentence,
        reason=decision.reason,
        before=cut(decision.action.before_words, MAX_SENTENCE_CHARACTERS),
        made_at=decision.made_at,
        gone_at=history.gone_at.get(decision.id),
        can_withdraw=decision.action.withdrawable and decision.id not in history.gone_at,
    )

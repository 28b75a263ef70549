"""Prepare: rows, findings, decisions, and the statements of all stages."""

from datetime import datetime
from typing import Annotated
from uuid import UUID

import numpy as np
from fastapi import APIRouter, Query, Request
from pydantic import Field

from hourglass.analysis.preparation import PrepareResult
from hourglass.analysis.statements import Stage, Statement
from hourglass.analysis.typed import Typed
from hourglass.api.desk import Desk
from hourglass.api.problems import ProblemError
from hourglass.api.stage_results import StageReply, reply
from hourglass.cohort.findings import Choice, Finding, find, steps_for
from hourglass.cohort.followup import outcome_codes
from hourglass.cohort.statement import FollowUpStatement
from hourglass.cohort.steps import CorrectCell, apply_steps
from hourglass.store import studies
from hourglass.store.studies import Study

router = APIRouter(tags=["prepare"])
Reason = Annotated[str, Field(max_length=2000)]
CHOICE_WORDS: dict[Choice, str] = {
    "set aside": "set aside",
    "keep": "kept as it is",
    "swap": "dates swapped",
    "respell": "spelled one way",
    "correct": "corrected",
}


class RowReading(Typed):
    """A row's number in the file and its cells as text."""

    number: int
    cells: list[str]


class RowPage(Typed):
    """Some rows of the table as the steps so far have left it."""

    columns: list[str]
    total: int
    rows: list[RowReading]


class Correction(Typed):
    """A new value for one cell; blank makes it missing."""

    row: int
    column: str
    value: Annotated[str, Field(max_length=1000)]


class FindingDecision(Typed):
    """What to do about a finding, and why."""

    finding: str
    choice: Choice
    reason: Reason = ""
    corrections: Annotated[list[Correction], Field(max_length=1000)] = Field(default_factory=list)


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


class FollowUpReply(Typed):
    """What Prepare shows, with the follow-up statement."""

    reply: StageReply[PrepareResult]
    follow_up: FollowUpStatement


@router.get("/api/studies/{study_id}/prepare")
def prepare(request: Request, study_id: UUID) -> FollowUpReply:
    """What Prepare shows besides the rows."""
    desk: Desk = request.app.state.desk
    return FollowUpReply(
        reply=reply(desk, study_id, "prepare", PrepareResult),
        follow_up=desk.study(study_id).follow_up,
    )


@router.put("/api/studies/{study_id}/follow-up", status_code=204)
def put_follow_up(request: Request, study_id: UUID, statement: FollowUpStatement) -> None:
    """Change the follow-up statement."""
    desk: Desk = request.app.state.desk
    study = _with_file(desk, study_id)
    table = desk.table(study)
    if statement.outcome is not None and statement.outcome == study.follow_up.outcome:
        known, _ = outcome_codes(table.column(statement.outcome))
        strange = set(statement.meanings) - set(known) - set(study.follow_up.meanings)
        if strange:
            raise ProblemError(
                422,
                "no-such-code",
                "No such code",
                f"{statement.outcome} has no code “{min(strange)}”.",
            )
    with desk.db() as db:
        studies.put_statement(db, study_id, "prepare", statement)


@router.put("/api/studies/{study_id}/statement", status_code=204)
def put_statement(request: Request, study_id: UUID, statement: Statement) -> None:
    """Change the statement of a later stage; the statement says which."""
    desk: Desk = request.app.state.desk
    _with_file(desk, study_id)
    with desk.db() as db:
        studies.put_statement(db, study_id, statement.stage, statement)


@router.get("/api/studies/{study_id}/rows")
def rows(
    request: Request,
    study_id: UUID,
    first: Annotated[int, Query(ge=0)] = 0,
    most: Annotated[int, Query(ge=1, le=500)] = 100,
    numbers: Annotated[list[int] | None, Query(max_length=500)] = None,
) -> RowPage:
    """Rows of the table, by place, or those of the given numbers."""
    desk: Desk = request.app.state.desk
    study = _with_file(desk, study_id)
    table = desk.after_steps(study)
    chosen = (
        np.arange(first, min(first + most, table.size))
        if numbers is None
        else table.positions(numbers)[first : first + most]
    )
    total = table.size if numbers is None else int(table.positions(numbers).size)
    return RowPage(
        columns=[c.name for c in table.columns],
        total=total,
        rows=[
            RowReading(number=int(table.numbers[k]), cells=[c.cell(int(k)) for c in table.columns])
            for k in chosen
        ],
    )


@router.post("/api/studies/{study_id}/findings", status_code=201)
def decide_finding(request: Request, study_id: UUID, decision: FindingDecision) -> DecisionReading:
    """Decide about a finding: the steps it takes are recorded with the decision."""
    desk: Desk = request.app.state.desk
    study = _with_file(desk, study_id)
    table = desk.after_steps(study)
    finding = next((f for f in find(table, study.follow_up) if f.key == decision.finding), None)
    if finding is None or decision.choice not in finding.choices:
        raise ProblemError(
            409,
            "finding-gone",
            "The finding has changed",
            "This finding is no longer there as it was: reload the page.",
        )
    corrections = _corrections(finding, decision)
    steps = steps_for(finding, decision.choice, corrections)
    apply_steps(table, steps)  # refuses what does not fit before anything is recorded
    sentence = f"{finding.title}: {CHOICE_WORDS[decision.choice]}"
    if corrections:
        changed = [
            f"row {c.row}, {c.column} now {c.value.strip() or 'missing'}" for c in corrections
        ]
        sentence += " (" + "; ".join(changed) + ")"
    with desk.db() as db:
        made = studies.decide(
            db, study_id, "prepare", finding.key, decision.choice, sentence, decision.reason, steps
        )
    return _made(desk, study_id, made)


def _corrections(finding: Finding, decision: FindingDecision) -> tuple[CorrectCell, ...]:
    if decision.choice != "correct":
        return ()
    allowed = set(finding.rows)
    for c in decision.corrections:
        if c.row not in allowed or c.column not in finding.columns:
            raise ProblemError(
                422,
                "strange-cell",
                "Not one of the finding's cells",
                f"Row {c.row}, {c.column} is not one of the cells of this finding.",
            )
    if not decision.corrections:
        raise ProblemError(
            422, "no-correction", "Nothing corrected", "Write the right value into a cell first."
        )
    return tuple(
        CorrectCell(row=c.row, column=c.column, value=c.value) for c in decision.corrections
    )


@router.post("/api/studies/{study_id}/decisions", status_code=201)
def log_decision(request: Request, study_id: UUID, new: NewDecision) -> DecisionReading:
    """Record a decision that needs no step, with its reason."""
    desk: Desk = request.app.state.desk
    with desk.db() as db:
        made = studies.decide(
            db, study_id, new.stage, new.about, new.choice, new.sentence, new.reason
        )
    return _made(desk, study_id, made)


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


def _made(desk: Desk, study_id: UUID, decision: int) -> DecisionReading:
    made = next(d for d in desk.study(study_id).decisions if d.id == decision)
    return DecisionReading.model_validate(made)


def _with_file(desk: Desk, study_id: UUID) -> Study:
    study = desk.study(study_id)
    if study.file is None:
        raise ProblemError(
            409, "no-file", "No file yet", "This study has no file yet: choose one in Prepare."
        )
    return study

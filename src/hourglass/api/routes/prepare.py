"""Prepare: what was found, the follow-up statement, the rows, findings and the table's layout."""

from collections.abc import Iterable
from typing import Annotated

import numpy as np
from fastapi import APIRouter, Query, Request
from fastapi.responses import Response
from pydantic import Field

from hourglass.analysis.prepare.finding_views import MoveView
from hourglass.analysis.prepare.result import PrepareResult
from hourglass.analysis.prepare.row_follow_up import RowFollowUp, RowTimes, row_follow_up
from hourglass.analysis.prepare.row_pieces import row_pieces
from hourglass.analysis.shared.frozen_model import FrozenModel
from hourglass.api.changes import Change
from hourglass.api.found_study import FoundStudy, StudyWithFile
from hourglass.api.problems import ProblemError
from hourglass.api.replies import StageReply, answer_or_work, found_or_under_way, joined, reply_body
from hourglass.api.routes.decisions import DecisionView, Reason, made_decision
from hourglass.api.state import State, having_file
from hourglass.cohort.records.joined import JoinedCohort
from hourglass.cohort.statement import FollowUpStatement
from hourglass.cohort.steps.step import RowNumber
from hourglass.cohort.table import Column, NoSuchColumnError, Table
from hourglass.study.commands.follow_up import Choice, confirm_layout, follow
from hourglass.study.commands.follow_up import Correction as CellCorrection
from hourglass.study.commands.follow_up import decide_finding as decided
from hourglass.study.decided_so_far import kept_findings
from hourglass.study.hashes import hash_of
from hourglass.study.source import Source
from hourglass.study.study import Study
from hourglass.study.tasks import RunMoves
from hourglass.study.work import WorkView

router = APIRouter(tags=["prepare"])


class RowView(FrozenModel):
    """A row's number in the file and its cells as text.

    ``as_written`` has the text in the file of a cell that is shown otherwise, and "" for the others;
    ``time`` and ``status`` are what the statement makes of the row, blank while it has open slots.
    """

    number: int
    cells: list[str]
    as_written: list[str]
    time: str = ""
    status: str = ""


class RowPage(FrozenModel):
    """Some rows of the table as the steps so far have left it."""

    columns: list[str]
    total: int
    rows: list[RowView]


class Correction(FrozenModel):
    """A new value for one cell; blank makes it missing."""

    row: int
    column: str
    value: Annotated[str, Field(max_length=1000)]


class FindingDecision(FrozenModel):
    """What to do about a finding, and why."""

    finding: str
    choice: Annotated[str, Field(max_length=400)]
    reason: Reason = ""
    corrections: Annotated[list[Correction], Field(max_length=1000)] = Field(default_factory=list)


class LayoutDecision(FrozenModel):
    """Which layout the table has, as confirmed by a person."""

    layout: Annotated[str, Field(max_length=700)]
    reason: Reason = ""


class MovesReply(FrozenModel):
    """What choices do to the median, or the work on it."""

    moves: list[MoveView] | None = None
    work: WorkView | None = None


class FollowUpReply(FrozenModel):
    """What Prepare shows, with the follow-up statement; ``revision`` is that of the study."""

    reply: StageReply[PrepareResult, None]
    follow_up: FollowUpStatement
    revision: int
    waiting: bool


@router.get("/api/studies/{study_id}/prepare", response_model=FollowUpReply)
def prepare(request: Request, study: FoundStudy) -> Response:
    """What Prepare shows besides the rows."""
    state: State = request.app.state.hourglass
    if study.file is None:
        reply = StageReply[None, None](blocked=[]).model_dump_json().encode()
    else:
        found = found_or_under_way(state, study, state.results.of_prepare(study))
        reply = reply_body(study, found)
    fields = {
        "reply": reply,
        "follow_up": study.follow_up.model_dump_json().encode(),
        "revision": str(study.revision).encode(),
        "waiting": b"false" if study.waiting is None else b"true",
    }
    return Response(joined(fields), media_type="application/json")


@router.get("/api/studies/{study_id}/prepare/moves")
def moves(request: Request, study: StudyWithFile) -> MovesReply:
    """What each choice about a finding does to the median, where Prepare leaves that for later."""
    state: State = request.app.state.hourglass
    assert study.file is not None
    source, kept = state.results.source(study), kept_findings(study)
    key = ("moves", source.hash, hash_of(sorted(kept.items())))
    found = state.results.answer(key, RunMoves(source, kept, study.file.read_at.date()))
    made, work = answer_or_work(found)
    return MovesReply(moves=made, work=work)


@router.put("/api/studies/{study_id}/follow-up", status_code=204)
def put_follow_up(request: Request, change: Change, statement: FollowUpStatement) -> None:
    """Change the follow-up statement."""
    state: State = request.app.state.hourglass

    def command(study: Study) -> Study:
        table = state.results.source(having_file(study)).after_steps()
        return follow(state.repository, study, statement, table)

    change.carry_out(command)


@router.get("/api/studies/{study_id}/rows")
def rows(
    request: Request,
    study: StudyWithFile,
    first: Annotated[int, Query(ge=0)] = 0,
    most: Annotated[int, Query(ge=1, le=500)] = 100,
    numbers: Annotated[list[RowNumber] | None, Query(max_length=500)] = None,
) -> RowPage:
    """Rows of the table, by place, or those of the given numbers."""
    state: State = request.app.state.hourglass
    source = state.results.source(study)
    table = source.after_steps()
    chosen = (
        np.arange(min(first, table.size), min(first + most, table.size))
        if numbers is None
        else table.positions(numbers)[first : first + most]
    )
    total = table.size if numbers is None else int(table.positions(numbers).size)
    return page_of(table, chosen, total, _times(source))


def _times(source: Source) -> RowTimes | None:
    """The times of the rows, where nothing of the statement is broken."""
    try:
        return source.row_times()
    except NoSuchColumnError:
        return None


@router.get("/api/studies/{study_id}/rows/{number}")
def row(request: Request, study: StudyWithFile, number: RowNumber) -> RowFollowUp:
    """How the time and the end of a row arose: which cells, which rules."""
    state: State = request.app.state.hourglass
    source = state.results.source(study)
    table, times = source.after_steps(), _times(source)
    at = table.positions([number])
    if times is None or at.size == 0:
        raise ProblemError(
            404, "no-such-row", "No such row", "The row has no time yet, or is not there any more."
        )
    raw = source.table() if not _other_layout(source) else table
    found = row_follow_up(raw, table, study.follow_up, times, int(at[0]))
    joined = source.joined() if source.tables else None
    if not isinstance(joined, JoinedCohort):
        return found
    return found.model_copy(update={"lines": [*found.lines, *row_pieces(joined, number)]})


def _other_layout(source: Source) -> bool:
    """Whether steps made other rows of those that were read."""
    return any(effect.becomes is not None for effect in source.applied()[1])


def page_of(
    table: Table, chosen: Iterable[int], total: int, times: RowTimes | None = None
) -> RowPage:
    """Some rows of a table, by place."""
    return RowPage(
        columns=[c.name for c in table.columns],
        total=total,
        rows=[
            RowView(
                number=int(table.numbers[k]),
                cells=[c.cell(int(k)) for c in table.columns],
                as_written=[_as_written(c, int(k)) for c in table.columns],
                time="" if times is None else times.time(int(k)),
                status="" if times is None else times.status(int(k)),
            )
            for k in chosen
        ],
    )


def _as_written(column: Column, row: int) -> str:
    if column.as_written is None:
        return ""
    text = column.as_written.cell(row)
    return "" if text == column.cell(row) else text


@router.post("/api/studies/{study_id}/findings", status_code=201)
def decide_finding(request: Request, change: Change, decision: FindingDecision) -> DecisionView:
    """Decide about a finding: the steps it takes are recorded with the decision."""
    state: State = request.app.state.hourglass
    corrections = tuple(
        CellCorrection(row=c.row, column=c.column, value=c.value) for c in decision.corrections
    )
    chosen = Choice(decision.finding, decision.choice, decision.reason, corrections)

    def command(study: Study) -> Study:
        return decided(state.repository, study, state.results.source(having_file(study)), chosen)

    return made_decision(change.carry_out(command))


@router.post("/api/studies/{study_id}/layout", status_code=201)
def decide_layout(request: Request, change: Change, decision: LayoutDecision) -> DecisionView:
    """Confirm the table's layout: its steps are taken, and the statement states what it implies."""
    state: State = request.app.state.hourglass

    def command(study: Study) -> Study:
        source = state.results.source(having_file(study))
        return confirm_layout(state.repository, study, source, decision.layout, decision.reason)

    return made_decision(change.carry_out(command))

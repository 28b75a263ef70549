"""The further tables of a study: added, stated, given steps, removed; what became of their rows."""

from dataclasses import asdict
from typing import Annotated

from fastapi import APIRouter, Request
from pydantic import Field

from hourglass.analysis.prepare.columns import column_views
from hourglass.analysis.prepare.result import ColumnView
from hourglass.analysis.shared.frozen_model import FrozenModel
from hourglass.api.changes import Change
from hourglass.api.found_study import StudyWithFile
from hourglass.api.replies import answer_or_work
from hourglass.api.routes.files import FileName, kept_while_read
from hourglass.api.state import State, having_file
from hourglass.api.upload import body_of, while_listening
from hourglass.cohort.derive import Blocker
from hourglass.cohort.parquet import from_parquet
from hourglass.cohort.records.forms import COVARIATE_FORMS, FIELD_FORMS, CovariateForm, FieldForm
from hourglass.cohort.records.proposal import proposed
from hourglass.cohort.records.statement import RecordTable, TableName
from hourglass.cohort.statement import FollowUpStatement
from hourglass.cohort.steps.apply import Step, apply_steps, refuse_broken
from hourglass.cohort.steps.rows import SetAside
from hourglass.cohort.words import cut
from hourglass.core.progress import ProgressCallback
from hourglass.study.commands.tables import (
    add_table,
    remove_table,
    set_table_steps,
    state_table,
    table_of,
)
from hourglass.study.study import Study, TableInUse
from hourglass.study.tasks import RunTableCounts
from hourglass.study.work import WorkView

router = APIRouter(tags=["tables"])
TABLES = "/api/studies/{study_id}/tables"
TABLE = f"{TABLES}/{{table}}"


class RecordCountsView(FrozenModel):
    """What became of the rows of a further table."""

    name: str
    rows: int
    not_followed: int
    before: int
    during: int
    late: int
    without: int


class FurtherTableView(FrozenModel):
    """A further table: its file, its columns after its steps, and how it is read."""

    name: str
    file: str | None
    rows: int
    columns: list[ColumnView]
    stated: RecordTable
    steps: list[Step]
    step_names: list[str]


class TableBlockView(FrozenModel):
    """What must be decided before the tables are joined; ``aside`` is a step that leaves its rows out."""

    sentence: str
    table: str
    aside: SetAside | None


class TablesReply(FrozenModel):
    """The further tables, what became of their rows, or what must be decided before they are joined."""

    tables: list[FurtherTableView]
    counts: list[RecordCountsView]
    blocked: list[TableBlockView]
    pieces: int = 0
    prevalent: int = 0
    in_gap: int = 0
    lengths_in: str
    work: WorkView | None = None


class TableSteps(FrozenModel):
    """The steps of a further table, in order."""

    steps: Annotated[list[Step], Field(max_length=1000)]
    reason: str = Field(default="", max_length=2000)


class CovariateForms(FrozenModel):
    """How covariates are stated by hand."""

    kinds: list[CovariateForm]
    fields: list[FieldForm]


@router.get("/api/covariate-forms")
def covariate_forms() -> CovariateForms:
    """How covariates are stated by hand, in the order in which they are offered."""
    return CovariateForms(kinds=list(COVARIATE_FORMS), fields=list(FIELD_FORMS))


@router.get(TABLES)
def tables(request: Request, study: StudyWithFile) -> TablesReply:
    """The further tables of a study."""
    state: State = request.app.state.hourglass
    views = [_view(state, study, one) for one in study.tables]
    unit = "days" if study.follow_up.dated else study.follow_up.unit
    if not views:
        return TablesReply(tables=[], counts=[], blocked=[], lengths_in=unit)
    source = state.results.source(study)
    found = state.results.answer(("tables", source.hash), RunTableCounts(source))
    counted, work = answer_or_work(found)
    if counted is None:
        return TablesReply(tables=views, counts=[], blocked=[], lengths_in=unit, work=work)
    return TablesReply(
        tables=views,
        counts=[RecordCountsView(**asdict(one)) for one in counted.counts],
        blocked=[_blocked(block) for block in counted.blocked],
        pieces=counted.pieces,
        prevalent=counted.prevalent,
        in_gap=counted.in_gap,
        lengths_in=unit,
    )


@router.put(f"{TABLE}/file", status_code=204)
async def upload_table(request: Request, change: Change, table: TableName, name: FileName) -> None:
    """Add a further table, or a new data extract of one: the request's body, as it is."""
    state: State = request.app.state.hourglass
    data = await body_of(request, state.settings.upload_limit)

    def keep(progress: ProgressCallback) -> None:
        study = having_file(change.now())
        known = next((one for one in study.tables if one.stated.name == table), None)
        reading = None if known is None else known.reading
        new = kept_while_read(state, name, data, reading, progress)
        if known is None:
            read = from_parquet(state.blobs.get(new.table_sha256))
            source = state.results.source(study)
            stated = proposed(table, read, source.after_steps(), study.follow_up).stated
        else:
            stated = known.stated
        progress("keeping the table", 0.95)
        change.carry_out(lambda study: add_table(state.repository, study, new, stated))

    await while_listening(request, state, keep)


@router.put(TABLE, status_code=204)
def put_table(request: Request, change: Change, table: TableName, stated: RecordTable) -> None:
    """State how a further table is read, and what is made of it."""
    state: State = request.app.state.hourglass
    given = stated.model_copy(update={"name": table})
    change.carry_out(lambda study: state_table(state.repository, study, given))


@router.put(f"{TABLE}/steps", status_code=204)
def put_table_steps(request: Request, change: Change, table: TableName, given: TableSteps) -> None:
    """Set the steps of a further table; one that cannot be carried out is refused."""
    state: State = request.app.state.hourglass

    def command(study: Study) -> Study:
        known = study.extract_of(table_of(study, table))
        if known is not None:
            read = from_parquet(state.blobs.get(known.table_sha256))
            refuse_broken(apply_steps(read, given.steps)[1])
        return set_table_steps(state.repository, study, table, given.steps, given.reason)

    change.carry_out(command)


@router.delete(TABLE, status_code=204)
def delete_table(request: Request, change: Change, table: TableName) -> None:
    """Remove a further table, with the columns that are made of it."""
    state: State = request.app.state.hourglass
    change.carry_out(lambda study: remove_table(state.repository, study, table))


def _blocked(block: Blocker) -> TableBlockView:
    aside = None
    if block.table and block.rows:
        aside = SetAside(rows=block.rows, why=cut(block.sentence, 400))
    return TableBlockView(sentence=block.sentence, table=block.table, aside=aside)


def _view(state: State, study: Study, table: TableInUse) -> FurtherTableView:
    extract = study.extract_of(table)
    columns: list[ColumnView] = []
    if extract is not None:
        source = state.results.source(study)
        own = next(one for one in source.tables if one.stated.name == table.stated.name)
        after, _ = source.further(own)
        columns = column_views(after, FollowUpStatement())
    return FurtherTableView(
        name=table.stated.name,
        file=None if extract is None else extract.name,
        rows=0 if extract is None else extract.rows,
        columns=columns,
        stated=table.stated,
        steps=list(table.steps),
        step_names=[step.named() for step in table.steps],
    )

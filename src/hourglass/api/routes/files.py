"""The files of a study: uploaded, read, read otherwise; new data extracts compared and accepted."""

from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from typing import Annotated

from fastapi import APIRouter, Query, Request

from hourglass.analysis.extract_comparison import ExtractComparison
from hourglass.analysis.shared.frozen_model import FrozenModel
from hourglass.api.changes import Change
from hourglass.api.found_study import StudyWithFile
from hourglass.api.replies import answer_or_work, within_a_moment
from hourglass.api.routes.prepare import RowPage, page_of
from hourglass.api.state import State, having_file
from hourglass.api.upload import body_of, while_listening
from hourglass.cohort.parquet import from_parquet
from hourglass.cohort.reading.packed import PackedReading
from hourglass.cohort.reading.recipe import Evidence, Recipe, UnreadableFileError
from hourglass.cohort.steps.apply import apply_steps, refuse_broken
from hourglass.cohort.steps.names import RenameColumn
from hourglass.cohort.table import Table
from hourglass.core.errors import UserError
from hourglass.core.progress import ProgressCallback
from hourglass.study.commands.files import kept_file, read_again, receive_extract, use_extract
from hourglass.study.commands.files import refuse_extract as let_go
from hourglass.study.hashes import hash_of
from hourglass.study.plans.applying import attach_as_planned
from hourglass.study.plans.document import applied_plan
from hourglass.study.plans.placing import placed_steps, steps_carried_over
from hourglass.study.repository import NewFile
from hourglass.study.source import Source
from hourglass.study.study import Extract, Study
from hourglass.study.tasks import RunExtractComparison
from hourglass.study.work import Work, WorkView

router = APIRouter(tags=["files"])
Names = Annotated[list[str] | None, Query(max_length=100)]
"""Names of columns."""
FileName = Annotated[str, Query(min_length=1, max_length=400)]
HEAD_ROWS, TAIL_ROWS = 6, 3
"""Rows of the beginning and the end that a preview shows."""


class EvidenceView(FrozenModel):
    """One thing that was found about the file, and why."""

    about: str
    found: str
    because: str


class ReadColumn(FrozenModel):
    """A column as it would be read."""

    name: str
    kind: str


class FileReadingNow(FrozenModel):
    """How the file is read, the evidence, and its first and last rows read that way."""

    recipe: Recipe
    evidence: list[EvidenceView]
    sheets: list[str]
    columns: list[ReadColumn]
    page: RowPage
    how: str


class FileReadingReply(FrozenModel):
    """How the file is read, or the work that will bring it."""

    reading: FileReadingNow | None = None
    work: WorkView | None = None


class ExtractView(FrozenModel):
    """A data extract of the study's data."""

    id: int
    name: str
    rows: int
    how_read: str
    read_on: str
    current: bool
    accepted: bool


class ExtractsReply(FrozenModel):
    """All data extracts, and the comparison with the one that waits, if any."""

    extracts: list[ExtractView]
    comparison: ExtractComparison | None = None
    work: WorkView | None = None


@router.put("/api/studies/{study_id}/file", status_code=204)
async def upload_file(request: Request, change: Change, name: FileName) -> None:
    """Give a study its file, or another while nothing depends on it: the request's body, as it is.

    All of it is taken, or nothing.
    """
    state: State = request.app.state.hourglass
    data = await body_of(request, state.settings.upload_limit)

    def keep(progress: ProgressCallback) -> None:
        plan = applied_plan(change.now())
        file = kept_while_read(state, name, data, None if plan is None else plan.reading, progress)

        def command(study: Study) -> Study:
            plan = applied_plan(study)
            source = _source_of(state, study, file.table_sha256, file.reading.rows)
            steps = None if plan is None else placed_steps(state.results, source, plan, file.sha256)
            with state.repository.transaction() as inside:
                attached = attach_as_planned(inside, study, file, steps)
                progress("keeping the table", 0.95)  # cancelled here, nothing is kept
            return attached

        change.carry_out(command)

    await while_listening(request, state, keep)


def kept_while_read(
    state: State, name: str, data: bytes, recipe: Recipe | None, progress: ProgressCallback
) -> NewFile:
    """A file that was read, with its bytes and its table kept: a large one is written while it is read."""
    with ThreadPoolExecutor(1) as beside:
        written = beside.submit(state.blobs.put, data)
        reading = _as_planned(state, recipe, data, progress)
    progress("keeping the table", 0.9)
    return kept_file(state.blobs, name, data, reading, written.result())


def _as_planned(
    state: State, recipe: Recipe | None, data: bytes, progress: ProgressCallback
) -> PackedReading:
    """A file read by a recipe, or as it is found where it cannot be read so."""
    if recipe is not None:
        with suppress(UnreadableFileError):
            return state.reader.read(data, recipe, progress)
    return state.reader.read(data, None, progress)


@router.put("/api/studies/{study_id}/next-file", status_code=204)
async def upload_next_file(request: Request, change: Change, name: FileName) -> None:
    """A new data extract of the same study: read, and kept waiting until somebody accepts it."""
    state: State = request.app.state.hourglass
    data = await body_of(request, state.settings.upload_limit)

    def keep(progress: ProgressCallback) -> None:
        having_file(change.now())
        file = kept_while_read(state, name, data, None, progress)
        progress("keeping the table", 0.95)
        change.carry_out(lambda study: receive_extract(state.repository, study, file))

    await while_listening(request, state, keep)


@router.get("/api/studies/{study_id}/extracts")
def extracts(
    request: Request, study: StudyWithFile, was: Names = None, now: Names = None
) -> ExtractsReply:
    """The study's data extracts; one that waits is set beside the current one.

    Each of its columns ``now`` is taken for the one that was called ``was``, in their order.
    """
    state: State = request.app.state.hourglass
    every = [_extract(study, extract) for extract in listed(study)]
    waiting = study.waiting
    if waiting is None:
        return ExtractsReply(extracts=every)

    opened = state.results.opened_stages(study)
    source = state.results.source(study)
    new = _source_of(state, study, waiting.table_sha256, waiting.rows)
    bodies = [[a.stage, a.id, a.body] for a in study.analyses]
    renamed = _renamed(was, now, new)
    found = state.results.answer(
        ("extracts", source.hash, new.hash, hash_of(bodies, was, now)),
        RunExtractComparison(source, study.steps, new, opened, renamed),
    )
    compared, work = answer_or_work(found)
    return ExtractsReply(extracts=every, comparison=compared, work=work)


@router.post("/api/studies/{study_id}/extracts/{extract_id}/current", status_code=204)
def open_extract(
    request: Request, change: Change, extract_id: int, was: Names = None, now: Names = None
) -> None:
    """Accept the data extract that waits, with the steps carried over, or go back to an earlier one.

    Each of its columns ``now`` gets the name ``was``, in their order, before the steps are carried out.
    """
    state: State = request.app.state.hourglass

    def command(study: Study) -> Study:
        having_file(study)
        chosen = next((extract for extract in listed(study) if extract.id == extract_id), None)
        if chosen is None:
            raise UserError(
                "The study has no such data extract: reload.", "no-such-extract", "extract_id"
            )
        carried = None
        if not chosen.accepted:
            new = _source_of(state, study, chosen.table_sha256, chosen.rows)
            carried = steps_carried_over(state.results, study, new, _renamed(was, now, new))
        return use_extract(state.repository, study, extract_id, chosen.name, carried)

    change.carry_out(command)


@router.delete("/api/studies/{study_id}/extracts/waiting", status_code=204)
def refuse_extract(request: Request, change: Change) -> None:
    """Let go of the data extract that waits."""
    state: State = request.app.state.hourglass
    change.carry_out(lambda study: let_go(state.repository, study))


def _renamed(
    was: Sequence[str] | None, now: Sequence[str] | None, new: Source
) -> tuple[RenameColumn, ...]:
    """The steps that give columns of a new data extract the names they had before."""
    if len(was or ()) != len(now or ()):
        raise UserError("Name each column with the name it had.", "no-such-columns", "was")
    steps = tuple(RenameColumn(column=b, into=a) for a, b in zip(was or (), now or (), strict=True))
    refuse_broken(apply_steps(new.table(), steps)[1])
    return steps


def _source_of(state: State, study: Study, table_sha256: str, rows: int) -> Source:
    """A table that is to be the study's, without steps."""
    return Source(
        blobs=state.blobs, table_sha256=table_sha256, steps=(), follow_up=study.follow_up, rows=rows
    )


def listed(study: Study) -> list[Extract]:
    """The data extracts of a study; of one that was read several ways, the reading in use or the last."""
    of_bytes: dict[str, Extract] = {}
    for extract in (one for one in study.extracts if not one.table):
        before = of_bytes.get(extract.sha256)
        if before is None or before.id != study.snapshot.extract:
            of_bytes[extract.sha256] = extract
    return list(of_bytes.values())


def _extract(study: Study, extract: Extract) -> ExtractView:
    return ExtractView(
        id=extract.id,
        name=extract.name,
        rows=extract.rows,
        how_read=extract.how_read,
        read_on=extract.read_at.date().isoformat(),
        current=extract.id == study.snapshot.extract,
        accepted=extract.accepted,
    )


@router.get("/api/studies/{study_id}/file/reading")
def file_reading(request: Request, study: StudyWithFile) -> FileReadingReply:
    """How the study's file is read, with the evidence of the whole reading."""
    state: State = request.app.state.hourglass
    file = study.file
    assert file is not None
    if not file.evidence:  # read by an earlier version of the program
        return _read_so(state, file, file.recipe)
    table = state.results.source(study).table()
    return FileReadingReply(
        reading=_reading(table, file.recipe, file.evidence, file.sheets, file.how_read)
    )


@router.post("/api/studies/{study_id}/file/reading")
def preview_of_reading(request: Request, study: StudyWithFile, recipe: Recipe) -> FileReadingReply:
    """How the whole file would be read by another recipe; nothing is changed."""
    state: State = request.app.state.hourglass
    file = study.file
    assert file is not None
    return _read_so(state, file, recipe)


@router.put("/api/studies/{study_id}/file/reading", status_code=204)
async def change_reading(request: Request, change: Change, recipe: Recipe) -> None:
    """Read the file by another recipe. Steps stay; those that no longer fit carry a message."""
    state: State = request.app.state.hourglass

    def read(progress: ProgressCallback) -> None:
        before = having_file(change.now()).file
        assert before is not None
        data = state.blobs.get(before.sha256)
        reading = state.reader.read(data, recipe, progress)
        progress("keeping the table", 0.9)
        file = kept_file(state.blobs, before.name, data, reading, before.sha256)
        change.carry_out(lambda study: read_again(state.repository, study, file))

    await while_listening(request, state, read)


def _read_so(state: State, file: Extract, recipe: Recipe) -> FileReadingReply:
    """The file read by a recipe, or the work that will bring it."""

    def read(progress: ProgressCallback) -> PackedReading:
        return state.reader.read(state.blobs.get(file.sha256), recipe, progress)

    key = ("reading", file.sha256, recipe.model_dump_json())
    found = state.results.answer(key, read, state.waiting)
    if isinstance(found, Work):
        done: PackedReading | None = within_a_moment(found)
        if done is None:
            return FileReadingReply(work=found.reading())
        found = done
    table = from_parquet(found.table)
    return FileReadingReply(
        reading=_reading(table, recipe, found.evidence, found.sheets, found.how)
    )


def _reading(
    table: Table, recipe: Recipe, evidence: Sequence[Evidence], sheets: Sequence[str], how: str
) -> FileReadingNow:
    head = range(min(HEAD_ROWS, table.size))
    tail = range(max(table.size - TAIL_ROWS, HEAD_ROWS), table.size)
    return FileReadingNow(
        recipe=recipe,
        evidence=[EvidenceView.model_validate(e) for e in evidence],
        sheets=list(sheets),
        columns=[ReadColumn(name=c.name, kind=c.kind) for c in table.columns],
        page=page_of(table, [*head, *tail], table.size),
        how=how,
    )

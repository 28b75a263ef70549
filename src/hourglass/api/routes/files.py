"""The files of a study: uploaded, read, read otherwise; new cuts compared and accepted."""

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Query, Request

from hourglass.analysis.cut_comparison import CutComparison, CutSide, compare_cuts
from hourglass.analysis.typed import Typed
from hourglass.analysis.watch import Watch, unwatched
from hourglass.api.answers import answer
from hourglass.api.desk import Desk
from hourglass.api.problems import ProblemError
from hourglass.api.routes.prepare import RowPage, page_of, with_file
from hourglass.api.upload import body_of, while_listening
from hourglass.api.work import WorkReading
from hourglass.cohort.carry import carry_over
from hourglass.cohort.parquet import from_parquet
from hourglass.cohort.reading.recipe import Recipe
from hourglass.cohort.steps.apply import apply_steps
from hourglass.cohort.steps.plan import PlacedStep
from hourglass.store import cuts as store_cuts
from hourglass.store import steps as store_steps
from hourglass.store.cuts import Cut
from hourglass.store.demos import kept_file
from hourglass.store.results import cohort_hash, statement_hash
from hourglass.store.studies import Study, attach_file

router = APIRouter(tags=["files"])
FileName = Annotated[str, Query(min_length=1, max_length=400)]
PREVIEW_ROWS = 200
SHOWN_ROWS = 8


class EvidenceReading(Typed):
    """One thing that was found about the file, and why."""

    about: str
    found: str
    because: str


class ReadColumn(Typed):
    """A column as it would be read."""

    name: str
    kind: str


class FileReadingReply(Typed):
    """How the file is read, the evidence, and the first rows read that way."""

    recipe: Recipe
    evidence: list[EvidenceReading]
    sheets: list[str]
    columns: list[ReadColumn]
    page: RowPage
    how: str


class CutReading(Typed):
    """A cut of the study's data."""

    id: int
    name: str
    rows: int
    how_read: str
    read_on: str
    current: bool
    accepted: bool


class CutsReply(Typed):
    """All cuts, and the comparison with the one that waits, if any."""

    cuts: list[CutReading]
    comparison: CutComparison | None = None
    work: WorkReading | None = None


@router.put("/api/studies/{study_id}/file", status_code=204)
async def upload_file(request: Request, study_id: UUID, name: FileName) -> None:
    """Give a study its file: the request's body, as it is. All of it is taken, or nothing."""
    desk: Desk = request.app.state.desk
    data = await body_of(request, desk.settings.upload_limit)

    def keep(watch: Watch) -> None:
        desk.study(study_id)  # says so, before reading, if there is no such study
        reading = desk.reader.read(data, None, watch)
        watch("keeping the table", 0.9)
        file = kept_file(desk.blobs, name, data, reading)
        with desk.db() as db, db.transaction():
            attach_file(db, study_id, file)
            watch("keeping the table", 0.95)

    await while_listening(request, desk, keep)


@router.put("/api/studies/{study_id}/next-file", status_code=204)
async def upload_next_file(request: Request, study_id: UUID, name: FileName) -> None:
    """A new export of the same study: read, and kept waiting until somebody accepts it."""
    desk: Desk = request.app.state.desk
    data = await body_of(request, desk.settings.upload_limit)

    def keep(watch: Watch) -> None:
        study = with_file(desk, study_id)
        assert study.file is not None
        reading = desk.reader.read(data, None, watch)
        file = kept_file(desk.blobs, name, data, reading)
        watch("keeping the table", 0.95)
        if file.table_sha256 == study.file.table_sha256:
            raise ProblemError(
                409, "same-cut", "The same data", "This file holds just what the study has already."
            )
        with desk.db() as db, db.transaction():
            store_cuts.add_cut(db, study_id, file, accepted=False)

    await while_listening(request, desk, keep)


@router.get("/api/studies/{study_id}/cuts")
def cuts(request: Request, study_id: UUID) -> CutsReply:
    """The study's cuts; one that waits is set beside the current one."""
    desk: Desk = request.app.state.desk
    study = with_file(desk, study_id)
    every = [_cut(cut) for cut in study.cuts]
    waiting = study.waiting
    if waiting is None:
        return CutsReply(cuts=every)

    def compared(watch: Watch) -> CutComparison:
        watch("finding the rows again", 0.05)
        _, sides, not_found = _carried(desk, study, waiting)
        return compare_cuts(*sides, study.follow_up, study.statements, not_found, watch)

    asked = statement_hash(*study.statements.values())
    key = ("cuts", str(study_id), str(waiting.id), cohort_hash(study), asked)
    found = answer(desk, key, compared)
    if isinstance(found, WorkReading):
        return CutsReply(cuts=every, work=found)
    return CutsReply(cuts=every, comparison=found)


@router.post("/api/studies/{study_id}/cuts/{cut_id}/current", status_code=204)
def open_cut(request: Request, study_id: UUID, cut_id: int) -> None:
    """Accept the cut that waits, with the steps carried over, or go back to an earlier one."""
    desk: Desk = request.app.state.desk
    study = with_file(desk, study_id)
    chosen = next((cut for cut in study.cuts if cut.id == cut_id), None)
    if chosen is None:
        raise ProblemError(404, "no-such-cut", "No such cut", "The study has no such cut: reload.")
    carried = [] if chosen.accepted else _carried(desk, study, chosen)[0]
    with desk.db() as db, db.transaction():
        store_cuts.accept_cut(db, study_id, cut_id)
        if carried:
            store_steps.revise(db, cut_id, "carried over from the cut before", carried)


@router.delete("/api/studies/{study_id}/cuts/waiting", status_code=204)
def refuse_cut(request: Request, study_id: UUID) -> None:
    """Let go of the cut that waits."""
    desk: Desk = request.app.state.desk
    with desk.db() as db:
        store_cuts.forget_waiting_cut(db, study_id)


def _carried(
    desk: Desk, study: Study, waiting: Cut
) -> tuple[list[PlacedStep], tuple[CutSide, CutSide], list[str]]:
    old = desk.table(study)
    new = from_parquet(desk.blobs.get(waiting.table_sha256))
    carried, not_found = carry_over(study.steps, old, new, study.follow_up.subject)
    before = CutSide(old, *desk.applied(study))
    after = CutSide(new, *apply_steps(new, [p.step for p in carried if p.active]))
    return carried, (before, after), not_found


def _cut(cut: Cut) -> CutReading:
    return CutReading(
        id=cut.id,
        name=cut.name,
        rows=cut.rows,
        how_read=cut.how_read,
        read_on=cut.read_at.date().isoformat(),
        current=cut.current,
        accepted=cut.accepted,
    )


@router.get("/api/studies/{study_id}/file/reading")
def file_reading(request: Request, study_id: UUID) -> FileReadingReply:
    """How the study's file is read, with the evidence."""
    desk: Desk = request.app.state.desk
    file = with_file(desk, study_id).file
    assert file is not None
    return _preview(desk, desk.blobs.get(file.sha256), file.recipe)


@router.post("/api/studies/{study_id}/file/reading")
def preview_reading(request: Request, study_id: UUID, recipe: Recipe) -> FileReadingReply:
    """How the file would be read by another recipe; nothing is changed."""
    desk: Desk = request.app.state.desk
    file = with_file(desk, study_id).file
    assert file is not None
    return _preview(desk, desk.blobs.get(file.sha256), recipe)


@router.put("/api/studies/{study_id}/file/reading", status_code=204)
async def change_reading(request: Request, study_id: UUID, recipe: Recipe) -> None:
    """Read the file by another recipe. Steps stay; those that no longer fit say so."""
    desk: Desk = request.app.state.desk

    def change(watch: Watch) -> None:
        file = with_file(desk, study_id).file
        assert file is not None
        reading = desk.reader.read(desk.blobs.get(file.sha256), recipe, watch)
        watch("keeping the table", 0.9)
        with desk.db() as db:
            kept = desk.blobs.put(reading.table)
            store_cuts.change_reading(db, file.id, kept, reading)

    await while_listening(request, desk, change)


def _preview(desk: Desk, data: bytes, recipe: Recipe) -> FileReadingReply:
    evidence, sheets, reading = desk.reader.preview(data, recipe, PREVIEW_ROWS, unwatched)
    shown = [*evidence, *reading.evidence]
    table = reading.table
    return FileReadingReply(
        recipe=recipe,
        evidence=[EvidenceReading.model_validate(e) for e in shown],
        sheets=sheets,
        columns=[ReadColumn(name=c.name, kind=c.kind) for c in table.columns],
        page=page_of(table, range(min(SHOWN_ROWS, table.size)), table.size),
        how=reading.how,
    )

"""Studies: list, create, rename, delete, overview; and their files."""

from datetime import datetime
from typing import Annotated, Literal
from uuid import UUID

from fastapi import APIRouter, Request
from pydantic import Field

from hourglass.analysis.statements import STAGES, Stage
from hourglass.analysis.typed import Typed
from hourglass.api.desk import Desk
from hourglass.api.problems import ProblemError
from hourglass.api.stage_results import stage_hash
from hourglass.cohort.followup import Cohort
from hourglass.store import results, studies
from hourglass.store.demos import demos, load_demo

router = APIRouter(tags=["studies"])
Name = Annotated[str, Field(min_length=1, max_length=200, pattern=r"\S")]


class StudyItem(Typed):
    """A study in the list."""

    id: UUID
    name: str
    demo: bool
    created_at: datetime
    file_name: str | None
    rows: int | None


class DemoItem(Typed):
    """A demo that a study can start from."""

    key: str
    name: str
    about: str


class StudyList(Typed):
    """All studies, and the demos."""

    studies: list[StudyItem]
    demos: list[DemoItem]


class NewStudy(Typed):
    """A study to create: empty under a name, or from a demo."""

    name: Name | None = None
    demo: str | None = None


class Renamed(Typed):
    """A study's new name."""

    name: Name


class Created(Typed):
    """The id of what was created."""

    id: UUID


class StageLine(Typed):
    """A stage on the spine: its line, and whether it is current, in doubt or waiting."""

    stage: Stage
    line: str
    state: Literal["current", "out of date", "unseen", "blocked"]
    mark: str


class FileReading(Typed):
    """The study's file."""

    name: str
    size: int
    rows: int
    sha256: str
    how_read: str


class StudyOverview(Typed):
    """A study with the state of its stages."""

    id: UUID
    name: str
    file: FileReading | None
    stages: list[StageLine]
    decisions: int


@router.get("/api/studies")
def list_studies(request: Request) -> StudyList:
    """All studies, oldest first."""
    desk: Desk = request.app.state.desk
    with desk.db() as db:
        found = studies.list_studies(db)
    return StudyList(
        studies=[
            StudyItem(
                id=s.id,
                name=s.name,
                demo=s.demo is not None,
                created_at=s.created_at,
                file_name=s.file_name,
                rows=s.rows,
            )
            for s in found
        ],
        demos=[DemoItem(key=k, name=d["name"], about=d["about"]) for k, d in demos().items()],
    )


@router.post("/api/studies", status_code=201)
def create_study(request: Request, new: NewStudy) -> Created:
    """Create a study."""
    desk: Desk = request.app.state.desk
    with desk.db() as db:
        if new.demo is not None:
            return Created(id=load_demo(db, desk.blobs, new.demo)[0])
        if new.name is None:
            raise ProblemError(422, "no-name", "No name", "Give the study a name, or name a demo.")
        return Created(id=studies.create_study(db, new.name.strip()))


@router.patch("/api/studies/{study_id}", status_code=204)
def rename_study(request: Request, study_id: UUID, new: Renamed) -> None:
    """Rename a study."""
    desk: Desk = request.app.state.desk
    with desk.db() as db:
        studies.rename_study(db, study_id, new.name.strip())


@router.delete("/api/studies/{study_id}", status_code=204)
def delete_study(request: Request, study_id: UUID) -> None:
    """Delete a study with everything that belongs to it."""
    desk: Desk = request.app.state.desk
    with desk.db() as db:
        studies.delete_study(db, study_id)


@router.get("/api/studies/{study_id}")
def overview(request: Request, study_id: UUID) -> StudyOverview:
    """A study with the state of its stages."""
    desk: Desk = request.app.state.desk
    study = desk.study(study_id)
    with desk.db() as db:
        known = results.headlines(db, study_id)
    ready = isinstance(desk.cohort(study), Cohort)
    cohort = results.cohort_hash(study)
    lines = [_line(study, stage, known.get(stage), cohort, ready) for stage in STAGES]
    file = study.file
    return StudyOverview(
        id=study.id,
        name=study.name,
        file=None if file is None else FileReading.model_validate(file),
        stages=lines,
        decisions=len(study.standing),
    )


def _line(
    study: studies.Study, stage: Stage, known: results.Headline | None, cohort: str, ready: bool
) -> StageLine:
    if stage != "prepare" and not ready:
        return StageLine(stage=stage, line="waits for Prepare", state="blocked", mark="")
    if known is None or stage not in study.asked | {"prepare"}:
        line = "choose a file" if study.file is None else "not opened yet"
        return StageLine(stage=stage, line=line, state="unseen", mark="")
    made_from = (known.cohort_hash, known.statement_hash, known.program)
    if made_from != (cohort, stage_hash(study, stage), results.PROGRAM):
        return StageLine(stage=stage, line="out of date", state="out of date", mark="out of date")
    return StageLine(stage=stage, line=known.headline, state="current", mark=known.mark)

"""Studies: list, create, rename, delete, overview; and their files."""

from collections.abc import Sequence
from datetime import datetime
from typing import Annotated, Literal
from uuid import UUID

from fastapi import APIRouter, Request, Response
from pydantic import Field

from hourglass.analysis.shared.figure.figure_settings import GroupStyle, ShownTrack
from hourglass.analysis.shared.figure.thumbnail import Thumbnail
from hourglass.analysis.shared.frozen_model import FrozenModel
from hourglass.analysis.shared.stage import stage_of
from hourglass.api.changes import Change, IfMatch, etag, named_revision
from hourglass.api.found_study import FoundStudy
from hourglass.api.problems import ProblemError
from hourglass.api.state import State
from hourglass.report.print.settings import PrintSettings
from hourglass.report.reporting import report_request
from hourglass.study.actions.action import PREPARE, REPORT
from hourglass.study.actions.turns import StudyBegun
from hourglass.study.commands.files import depended_on
from hourglass.study.commands.whole import create, delete, rename, restore
from hourglass.study.decided_so_far import opened_stages
from hourglass.study.demos import demos, load_demo
from hourglass.study.duplicating import duplicate
from hourglass.study.repository import Headline
from hourglass.study.result_request import ResultRequest
from hourglass.study.stage_titles import stage_titles
from hourglass.study.study import Analysis, Study, StudyLine
from hourglass.study.view_keys import view_key
from hourglass.study.views import letters, titles_of_views

router = APIRouter(tags=["studies"])
Name = Annotated[str, Field(min_length=1, max_length=200, pattern=r"\S")]


class ResultItem(FrozenModel):
    """The last result of a stage; ``current`` states whether nothing has been decided since."""

    stage: str
    title: str
    headline: str
    current: bool


class StudyItem(FrozenModel):
    """A study in the list, with its last results and the curves of one of them."""

    id: UUID
    name: str
    demo: bool
    created_at: datetime
    revision: int
    file_name: str | None
    rows: int | None
    results: list[ResultItem]
    thumbnail: Thumbnail | None


class DemoItem(FrozenModel):
    """A demo that a study can start from."""

    key: str
    name: str
    about: str


class StudyList(FrozenModel):
    """All studies, and the demos."""

    studies: list[StudyItem]
    demos: list[DemoItem]


class NewStudy(FrozenModel):
    """A study to create: empty under a name, or from a demo."""

    name: Name | None = None
    demo: str | None = None


class Renamed(FrozenModel):
    """A study's new name."""

    name: Name


class Created(FrozenModel):
    """The id of a study that was created, and the revision that a first change to it is made from."""

    id: UUID
    revision: int


class AnalysisLine(FrozenModel):
    """An analysis of a stage: a view of it, or a report.

    Attributes:
        letter: its key for ever; ``view``: under which its tracks and its printed figure are kept.
        name: as somebody gave it; ``title``: the same, else what it states that the others do not.
        drawing: what its figure is fetched by; blank where it has none that is current.
    """

    id: int
    letter: str
    view: str
    name: str
    title: str
    position: int
    needs: dict[str, int]
    drawing: str


class StageLine(FrozenModel):
    """A stage on the stage list: its line, and whether it is current, in doubt or waiting.

    ``drawing`` is what its figure is fetched by; blank where it has none that is current.
    ``several_views`` is true where views with a statement each can be begun.
    """

    stage: str
    title: str
    line: str
    state: Literal["current", "out of date", "unseen", "blocked"]
    mark: str
    drawing: str
    analyses: list[AnalysisLine]
    several_views: bool


class FileReading(FrozenModel):
    """The study's file."""

    name: str
    size: int
    rows: int
    sha256: str
    how_read: str


class StudyOverview(FrozenModel):
    """A study with the state of its stages.

    ``undo`` and ``redo`` are what would be undone or redone next; ``replaceable`` states whether
    another file can take the place of the study's, since nothing depends on it yet.
    """

    id: UUID
    name: str
    file: FileReading | None
    stages: list[StageLine]
    decisions: int
    revision: int
    undo: str | None
    redo: str | None
    tracks: dict[str, list[ShownTrack]]
    figures: dict[str, PrintSettings]
    group_styles: list[GroupStyle]
    replaceable: bool


@router.get("/api/studies")
def list_studies(request: Request) -> StudyList:
    """All studies, oldest first."""
    state: State = request.app.state.hourglass
    found = state.repository.studies()
    return StudyList(
        studies=[_item(state, line) for line in found],
        demos=[DemoItem(key=k, name=d["name"], about=d["about"]) for k, d in demos().items()],
    )


def _item(state: State, line: StudyLine) -> StudyItem:
    titles = stage_titles(state.stages)
    made = {one.stage: one for one in line.results if one.stage in titles}
    pictures = [one.thumbnail for name in reversed(titles) if (one := made.get(name))]
    return StudyItem(
        id=line.id,
        name=line.name,
        demo=line.demo is not None,
        created_at=line.created_at,
        revision=line.revision,
        file_name=line.file_name,
        rows=line.rows,
        results=[
            ResultItem(stage=n, title=t, headline=made[n].headline, current=made[n].current)
            for n, t in titles.items()
            if n in made
        ],
        thumbnail=next((Thumbnail.model_validate(p) for p in pictures if p), None),
    )


@router.post("/api/studies", status_code=201)
def create_study(request: Request, new: NewStudy) -> Created:
    """Create a study."""
    state: State = request.app.state.hourglass
    if new.demo is not None:
        made = load_demo(state.repository, state.blobs, new.demo)[0]
    elif new.name is not None:
        made = create(state.repository, new.name)
    else:
        raise ProblemError(422, "no-name", "No name", "Give the study a name, or name a demo.")
    return Created(id=made, revision=state.repository.load(made).revision)


@router.patch("/api/studies/{study_id}", status_code=204)
def rename_study(request: Request, change: Change, new: Renamed) -> None:
    """Rename a study."""
    state: State = request.app.state.hourglass
    change.carry_out(lambda study: rename(state.repository, study, new.name.strip()))


@router.delete("/api/studies/{study_id}", status_code=204)
def delete_study(request: Request, change: Change) -> None:
    """Delete a study with everything that belongs to it; it can be restored for some days."""
    state: State = request.app.state.hourglass
    delete(state.repository, change.now())


@router.post("/api/studies/{study_id}/restore", status_code=204)
def restore_study(request: Request, study_id: UUID, if_match: IfMatch = None) -> None:
    """Bring back a study that was deleted, as it was in the revision that is named."""
    state: State = request.app.state.hourglass
    restore(state.repository, study_id, named_revision(if_match))


@router.post("/api/studies/{study_id}/duplicate", status_code=201)
def duplicate_study(request: Request, study: FoundStudy, new: Renamed) -> Created:
    """A copy of a study under another name, with every decision that stands."""
    state: State = request.app.state.hourglass
    made = duplicate(state.repository, study, new.name.strip())
    return Created(id=made.id, revision=made.revision)


@router.get("/api/studies/{study_id}")
def overview(request: Request, response: Response, study: FoundStudy) -> StudyOverview:
    """A study with the state of its stages."""
    state: State = request.app.state.hourglass
    response.headers["ETag"] = etag(study)
    history = study.history
    known = state.repository.headlines(study.id)
    titles = {**stage_titles(state.stages), REPORT: "Report"}
    file = study.file
    return StudyOverview(
        id=study.id,
        name=study.name,
        file=None if file is None else FileReading.model_validate(file),
        stages=[_line(state, study, name, title, known) for name, title in titles.items()],
        decisions=sum(not isinstance(d.action, StudyBegun) for d in history.standing),
        revision=study.revision,
        undo=None if history.undo is None else history.undo.sentence,
        redo=None if history.redo is None else history.redo.sentence,
        replaceable=file is not None and not depended_on(study),
        tracks={view: list(shown) for view, shown in study.tracks.items()},
        figures={
            view: PrintSettings.model_validate(kept)
            for view, kept in study.snapshot.figures.items()
        },
        group_styles=list(study.group_styles),
    )


def _line(
    state: State, study: Study, stage: str, title: str, known: dict[int, Headline]
) -> StageLine:
    own = study.of_stage(stage)
    missing = None if stage == PREPARE else state.results.missing(study, stage)
    kept = _views(state, study, own, known, ready=missing is None)
    several = any(one.several_views for one in state.stages if one.name == stage)

    def line(words: str, found: str, mark: str = "", drawing: str = "") -> StageLine:
        return StageLine.model_validate(
            {
                "stage": stage, "title": title, "line": words, "state": found, "mark": mark,
                "drawing": drawing, "analyses": kept, "several_views": several,
            }
        )  # fmt: skip

    if missing is not None:
        return line(f"waits for {missing.waits_for}", "blocked")
    if stage == PREPARE and study.file is None:
        return line("choose a file", "unseen")
    headline = known.get(own[0].id or 0) if own else None
    if headline is None or stage not in opened_stages(study, state.stages) | {PREPARE}:
        return line("not opened yet", "unseen")
    result_request = _result_request(state, study, own[0])
    if headline.hash != result_request.hash:
        return line("out of date", "out of date", "out of date")
    drawing = result_request.key if headline.pictured else ""
    return line(headline.headline, "current", headline.mark, drawing)


def _views(
    state: State, study: Study, own: Sequence[Analysis], known: dict[int, Headline], *, ready: bool
) -> list[AnalysisLine]:
    """The analyses of a stage with their letters, names and figures.

    Args:
        ready: whether the input of the stage is there, so that its statements can be read.
    """
    if not own:
        return []
    stage = own[0].stage
    letter = letters(study, stage)
    named = [a.name for a in own]
    several = ready and len(own) > 1
    if several and any(one.name == stage for one in state.stages):
        statements = [state.results.statement(study, a) for a in own]
        named = titles_of_views(own, statements, stage_of(state.stages, stage).field_words)
    return [
        AnalysisLine(
            id=a.id,
            letter=letter.get(a.id, ""),
            view=view_key(stage, letter.get(a.id, "")),
            name=a.name,
            title=title,
            position=a.position,
            needs=dict(a.needs),
            drawing=_drawing(state, study, a, known.get(a.id)) if several else "",
        )
        for a, title in zip(own, named, strict=True)
        if a.id is not None
    ]


def _drawing(state: State, study: Study, analysis: Analysis, headline: Headline | None) -> str:
    """What the current figure of an analysis is fetched by; blank where there is none."""
    if headline is None or not headline.pictured:
        return ""
    result_request = _result_request(state, study, analysis)
    return result_request.key if headline.hash == result_request.hash else ""


def _result_request(state: State, study: Study, analysis: Analysis) -> ResultRequest:
    """The result of an analysis as it would be now."""
    if analysis.stage == PREPARE:
        return state.results.of_prepare(study)
    if analysis.stage == REPORT:
        return report_request(state.results, state.pieces, study, analysis)
    return state.results.of_stage(study, analysis)

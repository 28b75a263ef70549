"""A study: its data extracts, steps, decisions and analyses, as they are kept."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime
from typing import Any, Self
from uuid import UUID

from hourglass.analysis.shared.figure.figure_settings import GroupStyle, ShownTrack
from hourglass.cohort.reading.recipe import Evidence, Recipe
from hourglass.cohort.records.statement import RecordTable
from hourglass.cohort.statement import FollowUpStatement
from hourglass.cohort.steps.apply import Step
from hourglass.cohort.steps.document import PlacedStep
from hourglass.core.errors import HourglassError
from hourglass.study.actions.action import meet
from hourglass.study.actions.union import Action
from hourglass.study.history import Decision, History, history_of


class NoSuchStudyError(HourglassError):
    """There is no study of that id (it may have been deleted)."""


class NoSuchAnalysisError(HourglassError):
    """The study has no such analysis."""


class FileAlreadyReadError(HourglassError):
    """The study has its file already."""


class NothingToUndoError(HourglassError):
    """There is no change to undo, or none to redo."""


class StaleError(HourglassError):
    """The study has been changed since the revision that a change was made from.

    Attributes:
        study: the study as it is now.
        since: what was decided meanwhile.
    """

    def __init__(self, study: "Study", seen: int) -> None:
        self.study = study
        self.since = tuple(d for d in study.decisions if d.id > seen)
        super().__init__("The study has changed meanwhile, so nothing was done.")


@dataclass(frozen=True, slots=True)
class ResultLine:
    """The last result of a stage in the list of studies.

    ``current`` states whether the study is still as it was when the result was made.
    """

    stage: str
    headline: str
    thumbnail: Mapping[str, Any] | None
    current: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class StudyLine:
    """A study in the list of studies, with the last result of each stage."""

    id: UUID
    name: str
    demo: str | None
    created_at: datetime
    revision: int
    file_name: str | None
    rows: int | None
    results: tuple[ResultLine, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Extract:
    """A data extract of a study's data, as it is read by a recipe, and what speaks for reading it so.

    ``table`` names the further table that it is of; blank for that of follow-up.
    """

    id: int
    name: str
    sha256: str
    table_sha256: str
    size: int
    rows: int
    how_read: str
    recipe: Recipe
    evidence: tuple[Evidence, ...]
    sheets: tuple[str, ...]
    read_at: datetime
    accepted: bool
    table: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Analysis:
    """An analysis of a stage, as it is kept.

    Attributes:
        id: None while nobody has opened or written it.
        stage, name, position: what it is, what it is called, and its place among those of its stage.
        body: its statement as kept, of whatever version; None where nobody has written one.
        needs: the analyses it follows from, by stage; the first of the stage where none is named.
        opened: whether somebody has looked at it.
        begun: whether it is there only because somebody began it, besides the first of its stage.
    """

    id: int | None
    stage: str
    name: str = ""
    position: int = 0
    body: Mapping[str, Any] | None = None
    needs: Mapping[str, int] = field(default_factory=dict)
    opened: bool = False
    begun: bool = False

    @property
    def in_use(self) -> bool:
        """Whether somebody has opened it or written its statement."""
        return self.opened or self.body is not None


@dataclass(frozen=True, slots=True, kw_only=True)
class TableInUse:
    """A further table of a study: its data extract by id, how it is read, and its steps.

    ``extract`` is None while a plan states the table and nobody has added its file; ``reading``: how a
    plan states that the file is to be read.
    """

    extract: int | None
    stated: RecordTable
    steps: tuple[Step, ...] = ()
    reading: Recipe | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class StudySnapshot:
    """All that people have decided of a study, as it was at a moment.

    Attributes:
        extract: the id of the data extract in use; None before there is a file.
        tables: the further tables, in the order in which they were added.
        steps: those of that data extract, switched off ones included.
        analyses: those that somebody wrote, named or began.
        gone: analyses that were deleted.
        figures: how the figure of each view is printed.
        tracks: which tracks each view shows, in their order, with their heights.
        group_styles: how groups are drawn, by the group.
        planned: the plan that was applied last, as its document; a file that comes is read as it states.
        sealed: the plan that was sealed, as its document with the seal.
    """

    name: str
    extract: int | None = None
    tables: tuple[TableInUse, ...] = ()
    follow_up: FollowUpStatement = field(default_factory=FollowUpStatement)
    steps: tuple[PlacedStep, ...] = ()
    analyses: tuple[Analysis, ...] = ()
    gone: frozenset[int] = frozenset()
    figures: Mapping[str, Mapping[str, Any]] = field(default_factory=dict)
    tracks: Mapping[str, Sequence[Mapping[str, Any]]] = field(default_factory=dict)
    group_styles: Mapping[str, Mapping[str, Any]] = field(default_factory=dict)
    planned: Mapping[str, Any] | None = None
    sealed: Mapping[str, Any] | None = None

    def with_table(self, table: TableInUse) -> Self:
        """With a further table in the place of that of its name, or after all others."""
        name = table.stated.name
        if all(one.stated.name != name for one in self.tables):
            return replace(self, tables=(*self.tables, table))
        tables = tuple(table if one.stated.name == name else one for one in self.tables)
        return replace(self, tables=tables)

    def steps_of(self, decision: int) -> tuple[PlacedStep, ...]:
        """The steps, new ones without a decision being those of this one."""
        return tuple(
            s if s.id or s.decision else s.model_copy(update={"decision": decision})
            for s in self.steps
        )

    def with_analysis(self, analysis: Analysis) -> Self:
        """With an analysis in the place of that of its id, or after all others."""
        others = tuple(a for a in self.analyses if a.id != analysis.id)
        return replace(self, analyses=(*others, analysis))


@dataclass(frozen=True, slots=True, kw_only=True)
class Study:
    """All that is kept of a study besides its bytes and results.

    Attributes:
        looked_at: the analyses that are there without anybody's decision: they have been opened.
        snapshot: what has been decided up to now.
        decisions: the log, oldest first.
        meanwhile: those of its entries that whoever decides now had not seen.
    """

    id: UUID
    demo: str | None
    extracts: tuple[Extract, ...]
    looked_at: tuple[Analysis, ...]
    snapshot: StudySnapshot
    decisions: tuple[Decision, ...]
    meanwhile: tuple[Decision, ...] = ()

    def seen_at(self, revision: int) -> Self:
        """The study as it is, for somebody who has seen it at a revision.

        Raises:
            StaleError: when it never was at that revision.
        """
        if all(d.id != revision for d in self.decisions):
            raise StaleError(self, revision)
        return replace(self, meanwhile=tuple(d for d in self.decisions if d.id > revision))

    def left_as_it_is(self, action: Action) -> Self:
        """The study where an action would change nothing: it may be so by what was decided meanwhile.

        Raises:
            StaleError: when what the action rests on has been changed meanwhile.
        """
        self.refuse_decided_meanwhile(action)
        return self

    def refuse_decided_meanwhile(self, action: Action) -> None:
        """Refuse an action that rests on what has been changed meanwhile.

        Raises:
            StaleError
        """
        if any(meet(d.action.changes, action.rests_on) for d in self.meanwhile):
            raise StaleError(self, self.meanwhile[0].id - 1)

    @property
    def name(self) -> str:
        """What the study is called."""
        return self.snapshot.name

    @property
    def follow_up(self) -> FollowUpStatement:
        """The follow-up statement."""
        return self.snapshot.follow_up

    @property
    def steps(self) -> tuple[PlacedStep, ...]:
        """The steps of the current data extract, switched off ones included."""
        return self.snapshot.steps

    @property
    def tables(self) -> tuple[TableInUse, ...]:
        """The further tables."""
        return self.snapshot.tables

    def extract_of(self, table: TableInUse) -> Extract | None:
        """The data extract of a further table; None while it has none."""
        return next((one for one in self.extracts if one.id == table.extract), None)

    @property
    def tracks(self) -> dict[str, tuple[ShownTrack, ...]]:
        """The tracks that each view shows, where somebody has chosen them."""
        return {
            view: tuple(ShownTrack.model_validate(track) for track in shown)
            for view, shown in self.snapshot.tracks.items()
        }

    @property
    def group_styles(self) -> tuple[GroupStyle, ...]:
        """How groups are drawn."""
        return tuple(
            GroupStyle.model_validate(style) for style in self.snapshot.group_styles.values()
        )

    @property
    def revision(self) -> int:
        """Which revision of the study this is: every change makes another."""
        return self.decisions[-1].id if self.decisions else 0

    @property
    def history(self) -> History:
        """Which decisions stand, and what can be undone and redone."""
        return history_of(self.decisions)

    @property
    def analyses(self) -> tuple[Analysis, ...]:
        """All analyses, by stage, in their order."""
        opened = {a.id: a.opened for a in self.looked_at}
        written = [replace(a, opened=opened.get(a.id, False)) for a in self.snapshot.analyses]
        known = {a.id for a in written} | self.snapshot.gone
        plain = [a for a in self.looked_at if a.id not in known and not a.begun]
        return tuple(sorted([*plain, *written], key=lambda a: (a.stage, a.position, a.id or 0)))

    @property
    def file(self) -> Extract | None:
        """The current data extract."""
        return next((one for one in self.extracts if one.id == self.snapshot.extract), None)

    @property
    def waiting(self) -> Extract | None:
        """The new data extract that waits to be accepted."""
        return next((extract for extract in self.extracts if not extract.accepted), None)

    @property
    def standing(self) -> tuple[Decision, ...]:
        """Decisions that have been neither undone nor withdrawn."""
        return self.history.standing

    @property
    def active(self) -> tuple[Step, ...]:
        """The steps that are switched on."""
        return tuple(placed.step for placed in self.steps if placed.active)

    def of_stage(self, stage: str) -> tuple[Analysis, ...]:
        """The analyses of a stage, in their order."""
        return tuple(a for a in self.analyses if a.stage == stage)

    def analysis(self, stage: str, id: int | None = None) -> Analysis:
        """An analysis of a stage: that of the id, else the first, else one that nobody has opened yet.

        Raises:
            NoSuchAnalysisError: when the stage has none of that id.
        """
        own = self.of_stage(stage)
        if id is not None:
            found = next((a for a in own if a.id == id), None)
            if found is None:
                raise NoSuchAnalysisError(f"{stage.capitalize()} has no such analysis: reload.")
            return found
        return own[0] if own else Analysis(id=None, stage=stage)

    def needed(self, analysis: Analysis, stage: str) -> Analysis:
        """The analysis of a stage that another follows from."""
        if stage == analysis.stage:
            return analysis
        named = analysis.needs.get(stage)
        there = named is not None and any(a.id == named for a in self.of_stage(stage))
        return self.analysis(stage, named if there else None)

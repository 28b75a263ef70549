"""A study: its exports, steps, decisions and analyses, as they are kept."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import datetime
from typing import Any
from uuid import UUID

from hourglass.cohort.reading.recipe import Recipe
from hourglass.cohort.statement import FollowUpStatement
from hourglass.cohort.steps.apply import Step
from hourglass.cohort.steps.plan import PlacedStep

PREPARE, REPORT = "prepare", "report"
"""The stages that are no analyses of a cohort: what forms it, and what is made of all the others."""


class NoSuchStudyError(LookupError):
    """There is no study of that id (it may have been deleted)."""


class NoSuchAnalysisError(LookupError):
    """The study has no such analysis."""


class FileAlreadyReadError(ValueError):
    """The study has its file already."""


class NothingToUndoError(ValueError):
    """There is no revision before this one, or none after it."""


@dataclass(frozen=True, slots=True)
class StudyLine:
    """A study in the list of studies."""

    id: UUID
    name: str
    demo: str | None
    created_at: datetime
    file_name: str | None
    rows: int | None


@dataclass(frozen=True, slots=True)
class Export:
    """An export of a study's data. ``revision`` of ``last_revision`` says how far its steps are undone."""

    id: int
    name: str
    sha256: str
    table_sha256: str
    size: int
    rows: int
    how_read: str
    recipe: Recipe
    read_at: datetime
    revision: int
    last_revision: int
    accepted: bool
    current: bool


@dataclass(frozen=True, slots=True)
class Decision:
    """What somebody decided, and why."""

    id: int
    stage: str
    about: str
    choice: str
    sentence: str
    reason: str
    made_at: datetime
    withdrawn_at: datetime | None


@dataclass(frozen=True, slots=True)
class Analysis:
    """An analysis of a stage, as it is kept.

    Attributes:
        id: None while nobody has opened or written it.
        stage, name, position: what it is, what it is called, and its place among those of its stage.
        body: its statement as kept, of whatever version; None where nobody has written one.
        needs: the analyses it follows from, by stage; the first of the stage where none is named.
        opened: whether somebody has looked at it.
    """

    id: int | None
    stage: str
    name: str = ""
    position: int = 0
    body: Mapping[str, Any] | None = None
    needs: Mapping[str, int] = field(default_factory=dict)
    opened: bool = False

    @property
    def asked(self) -> bool:
        """Whether somebody has opened it or written its statement."""
        return self.opened or self.body is not None


@dataclass(frozen=True, slots=True)
class Study:
    """All that is kept of a study besides its bytes and results.

    ``file`` is the current export, ``steps`` are those of it, switched off ones included.
    """

    id: UUID
    name: str
    demo: str | None
    exports: tuple[Export, ...]
    follow_up: FollowUpStatement
    analyses: tuple[Analysis, ...]
    steps: tuple[PlacedStep, ...]
    decisions: tuple[Decision, ...]

    @property
    def file(self) -> Export | None:
        """The current export."""
        return next((export for export in self.exports if export.current), None)

    @property
    def waiting(self) -> Export | None:
        """The new export that waits to be accepted."""
        return next((export for export in self.exports if not export.accepted), None)

    @property
    def standing(self) -> tuple[Decision, ...]:
        """Decisions that have not been withdrawn."""
        return tuple(d for d in self.decisions if d.withdrawn_at is None)

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
        return own[0] if own else Analysis(None, stage)

    def needed(self, analysis: Analysis, stage: str) -> Analysis:
        """The analysis of a stage that another follows from."""
        if stage == analysis.stage:
            return analysis
        named = analysis.needs.get(stage)
        there = named is not None and any(a.id == named for a in self.of_stage(stage))
        return self.analysis(stage, named if there else None)

"""Where studies are kept: a protocol, of which the database is one form and memory another."""

from collections.abc import Mapping, Sequence
from contextlib import AbstractContextManager
from dataclasses import dataclass
from typing import Any, Protocol, Self
from uuid import UUID

from hourglass.cohort.reading.packed import PackedReading
from hourglass.cohort.statement import FollowUpStatement
from hourglass.cohort.steps.plan import PlacedStep
from hourglass.study.study import Study, StudyLine


@dataclass(frozen=True, slots=True)
class NewFile:
    """A file that has been read and whose bytes are kept."""

    name: str
    sha256: str
    table_sha256: str
    size: int
    reading: PackedReading


@dataclass(frozen=True, slots=True)
class NewDecision:
    """A decision to record."""

    stage: str
    about: str
    choice: str
    sentence: str
    reason: str = ""


@dataclass(frozen=True, slots=True)
class Headline:
    """A result in a line, with the hash of what it came from, and what its drawing is asked by."""

    hash: str
    headline: str
    mark: str
    drawing: str


@dataclass(frozen=True, slots=True)
class Computed:
    """A result as it is kept and sent: JSON, with its line for the spine, and its drawing, packed.

    ``drawing_key`` is what the drawing is asked by; both are blank where a result has none.
    """

    body: bytes
    headline: str = ""
    mark: str = ""
    drawing_key: str = ""
    drawing: bytes = b""


class Bytes(Protocol):
    """Bytes kept under their SHA-256."""

    def put(self, data: bytes) -> str:
        """Keep bytes; gives their SHA-256."""
        ...

    def get(self, name: str) -> bytes:
        """The bytes of that SHA-256."""
        ...


class Keeping(Protocol):
    """Studies as they are kept. Each method is one piece of work, done whole or not at all."""

    def transaction(self) -> AbstractContextManager[Self]:
        """Several pieces of work, done whole or not at all, through what this gives."""
        ...

    def studies(self) -> list[StudyLine]:
        """All studies, oldest first."""
        ...

    def create(self, name: str, demo: str | None = None) -> UUID:
        """Begin a study without a file."""
        ...

    def rename(self, study: UUID, name: str) -> None:
        """Give a study another name."""
        ...

    def delete(self, study: UUID) -> None:
        """Delete a study with everything that belongs to it."""
        ...

    def load(self, study: UUID) -> Study:
        """Read a study; raises NoSuchStudyError."""
        ...

    def lock(self, study: UUID) -> None:
        """Let nobody else change the study until the transaction ends; raises NoSuchStudyError."""
        ...

    def put_follow_up(self, study: UUID, statement: FollowUpStatement) -> None:
        """Replace the follow-up statement."""
        ...

    def add_analysis(
        self, study: UUID, stage: str, name: str, body: Mapping[str, Any] | None
    ) -> int:
        """Begin an analysis after those of its stage; gives its id."""
        ...

    def put_statement(self, analysis: int, body: Mapping[str, Any]) -> None:
        """Replace the statement of an analysis."""
        ...

    def arrange_analysis(
        self, analysis: int, name: str, position: int, needs: Mapping[str, int]
    ) -> None:
        """What an analysis is called, its place, and what it follows from."""
        ...

    def remove_analysis(self, analysis: int) -> None:
        """Delete an analysis with its results."""
        ...

    def open_analysis(self, analysis: int) -> None:
        """Record that somebody has looked at an analysis."""
        ...

    def find_result(self, analysis: int, part: str, hash: str) -> bytes | None:
        """The kept body of a result, if it came from just this."""
        ...

    def keep_result(self, analysis: int, part: str, hash: str, computed: Computed) -> None:
        """Keep the last result of an analysis, or of a part of it."""
        ...

    def find_drawing(self, study: UUID, key: str) -> bytes | None:
        """The drawing of that key, if a result that is kept has it."""
        ...

    def figure_settings(self, study: UUID, view: str) -> Mapping[str, Any] | None:
        """How the figure of a view was last printed; None if it never was."""
        ...

    def put_figure_settings(self, study: UUID, view: str, settings: Mapping[str, Any]) -> None:
        """Keep how the figure of a view is printed."""
        ...

    def headlines(self, study: UUID) -> dict[int, Headline]:
        """The last result of every analysis, in a line."""
        ...

    def add_export(self, study: UUID, file: NewFile, accepted: bool) -> int:
        """Record a file that was read; one not yet accepted takes the place of one that waits."""
        ...

    def change_reading(self, export: int, table_sha256: str, reading: PackedReading) -> None:
        """Record that an export's bytes are now read by another recipe."""
        ...

    def accept_export(self, study: UUID, export: int) -> None:
        """Make an export the current one; those before it stay."""
        ...

    def forget_waiting_export(self, study: UUID) -> None:
        """Let go of the export that waits to be accepted."""
        ...

    def revise(self, export: int, what: str, steps: Sequence[PlacedStep]) -> None:
        """Make a new revision of an export's steps; steps with id 0 are new. What was undone is gone."""
        ...

    def undo(self, export: int, by: int) -> None:
        """Go back a revision (−1), or forth (1); raises NothingToUndoError."""
        ...

    def record(self, study: UUID, decision: NewDecision) -> int:
        """Log a decision; gives its id."""
        ...

    def mark_withdrawn(self, study: UUID, decision: int) -> None:
        """Mark a standing decision as withdrawn; raises NoSuchStudyError when there is none."""
        ...

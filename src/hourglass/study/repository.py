"""Where studies are kept: a protocol, of which the database is one form and memory another."""

from collections.abc import Collection, Mapping
from contextlib import AbstractContextManager
from dataclasses import dataclass
from datetime import datetime
from typing import Any, BinaryIO, Protocol, Self
from uuid import UUID

from hourglass.analysis.shared.figure.thumbnail import Thumbnail
from hourglass.cohort.reading.packed import PackedReading
from hourglass.study.history import NewDecision
from hourglass.study.study import Study, StudyLine, StudySnapshot


@dataclass(frozen=True, slots=True, kw_only=True)
class NewFile:
    """A file that has been read, now or at ``read_at``, and whose bytes are kept.

    ``table`` names the further table that it is of; blank for that of follow-up.
    """

    name: str
    sha256: str
    table_sha256: str
    size: int
    reading: PackedReading
    read_at: datetime | None = None
    table: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Deletion:
    """A study that was deleted: in which revision, when, by whom, and when it was brought back.

    ``actor`` is None while nobody is known to the program.
    """

    study: UUID
    name: str
    revision: int
    deleted_at: datetime
    restored_at: datetime | None = None
    actor: str | None = None


@dataclass(frozen=True, slots=True)
class Headline:
    """A result in a line, with the hash of what its numbers came from, and whether it has a figure."""

    hash: str
    headline: str
    mark: str
    pictured: bool


@dataclass(frozen=True, slots=True)
class KeptResult:
    """A result as it is kept: the name of its numbers, which are kept with the bytes, and its line.

    ``pictured`` states whether it has a figure; ``thumbnail`` are its curves in a list of studies.
    """

    numbers: str
    headline: str = ""
    mark: str = ""
    pictured: bool = False
    thumbnail: Thumbnail | None = None


class Staging(Protocol):
    """Bytes that wait to be kept, outside of memory."""

    def add(self, source: BinaryIO) -> str:
        """Take bytes in, a piece at a time; gives their SHA-256."""
        ...

    def keep(self) -> None:
        """Keep all of them."""
        ...


class BlobStore(Protocol):
    """Bytes kept under their SHA-256."""

    def put(self, data: bytes) -> str:
        """Keep bytes; gives their SHA-256."""
        ...

    def get(self, name: str) -> bytes:
        """The bytes of that SHA-256."""
        ...

    def staged(self) -> AbstractContextManager["Staging"]:
        """A place for bytes that are kept all together or not at all; what is not kept is gone after it."""
        ...

    def put_numbers(self, packed: bytes) -> str:
        """Keep numbers, which can be computed again; gives their name, from what is in them."""
        ...

    def numbers(self, name: str) -> bytes | None:
        """The kept numbers of that name; None where they are gone or damaged."""
        ...

    def forget_numbers(self, kept: Collection[str]) -> None:
        """Let go of all numbers but these, and those that have just been computed."""
        ...


class StudyRepository(Protocol):
    """Studies as they are kept. Each method is one piece of work, done whole or not at all."""

    def transaction(self) -> AbstractContextManager[Self]:
        """Several pieces of work, done whole or not at all, through what this gives."""
        ...

    def studies(self) -> list[StudyLine]:
        """All studies, oldest first."""
        ...

    def figure_presets(self) -> dict[str, dict[str, Any]]:
        """The settings of printed figures that are kept for all studies, by name in their order."""
        ...

    def put_figure_preset(self, name: str, settings: Mapping[str, Any]) -> None:
        """Keep settings under a name, in place of others of that name."""
        ...

    def delete_figure_preset(self, name: str) -> None:
        """Keep the settings of that name no longer; none of that name is no fault."""
        ...

    def create(self, name: str, demo: str | None = None, at: datetime | None = None) -> UUID:
        """Begin a study without a file, at a moment or now."""
        ...

    def demos_loaded(self) -> set[str]:
        """The demos that were ever loaded, those that somebody has deleted among them."""
        ...

    def note_demo(self, demo: str) -> None:
        """Remember that a demo was loaded."""
        ...

    def delete(self, study: Study) -> None:
        """Take a study away with everything that belongs to it; it can be brought back for a while.

        Raises:
            NoSuchStudyError.
            StaleError: when the study has been changed since it was loaded.
        """
        ...

    def deletions(self) -> list[Deletion]:
        """The log of studies that were deleted, oldest first; those gone for good among them."""
        ...

    def restore(self, study: UUID, revision: int | None = None) -> None:
        """Bring back a study that was deleted in a revision, or in any.

        Raises:
            NoSuchStudyError: when it is gone for good, or was deleted in another revision.
        """
        ...

    def load(self, study: UUID) -> Study:
        """Read a study; raises NoSuchStudyError."""
        ...

    def append(
        self, study: Study, entry: NewDecision, snapshot: StudySnapshot, at: datetime | None = None
    ) -> Study:
        """Log a decision with all that is decided after it; gives the study as it then is.

        Steps with id 0 are new; those without a decision are this one's.

        Args:
            at: when it was decided; now where that is not known.

        Raises:
            NoSuchStudyError.
            StaleError: when the study has been changed since it was loaded.
        """
        ...

    def snapshot_at(self, study: UUID, decision: int) -> StudySnapshot:
        """All that was decided after an entry of the log, which must be whole."""
        ...

    def last_with_extract(self, study: UUID, extract: int) -> StudySnapshot | None:
        """What was decided when that data extract was last in use; None if it never was."""
        ...

    def begin_analysis(self, study: UUID, stage: str, begun: bool) -> int:
        """A place for the results of an analysis; gives its id.

        Args:
            begun: whether somebody began it besides the first of its stage, so that it is there while
                that decision stands. There is one that nobody began.
        """
        ...

    def open_analysis(self, analysis: int) -> None:
        """Record that somebody has looked at an analysis."""
        ...

    def find_numbers(self, analysis: int, part: str, hash: str) -> str | None:
        """The name of the kept numbers of a result, if they came from just this."""
        ...

    def keep_result(
        self, analysis: int, part: str, hash: str, result: KeptResult, revision: int = 0
    ) -> None:
        """Keep the last result of an analysis, or of a part of it, made for a revision of its study."""
        ...

    def numbers(self) -> set[str]:
        """The names of the numbers of all results that are kept."""
        ...

    def headlines(self, study: UUID) -> dict[int, Headline]:
        """The last result of every analysis, in a line."""
        ...

    def add_extract(self, study: UUID, file: NewFile, waiting: bool) -> int:
        """Record a file that was read; one that waits takes the place of one that waited."""
        ...

    def forget_waiting_export(self, study: UUID) -> None:
        """Let go of the data extract that waits to be accepted."""
        ...

"""A study as one archive: its files as they came, its tables, and its log with every date."""

import io
import lzma
import struct
import zipfile
import zlib
from collections.abc import Mapping
from dataclasses import fields
from datetime import datetime
from typing import Any, BinaryIO, Literal, cast
from uuid import UUID

from pydantic import BaseModel, ConfigDict, ValidationError

from hourglass.cohort.reading.packed_columns import checked_parquet
from hourglass.cohort.reading.read import read
from hourglass.cohort.reading.recipe import UnreadableFileError
from hourglass.cohort.steps.document import PlacedStep
from hourglass.cohort.table import first_difference
from hourglass.cohort.words import grouped
from hourglass.core.errors import HourglassError
from hourglass.study.actions.union import Action
from hourglass.study.actions.upgrading import EarlierEntry, action_of
from hourglass.study.duplicating import Copying
from hourglass.study.history import Decision, NewDecision
from hourglass.study.repository import BlobStore, StudyRepository
from hourglass.study.snapshot_json import from_json, to_json
from hourglass.study.study import Analysis, Extract, Study, StudySnapshot

DOCUMENT = "study.json"
WHEN = (1980, 1, 1, 0, 0, 0)
"""The time of all files in an archive, so that the same study gives the same bytes."""
MAX_MEMBERS = 10_000
MAX_UNPACKED = 2 << 30
"""Bytes that the files of an archive may hold unpacked, all together."""
MAX_RATIO = 200
"""Times its packed size that a file may unpack to, where that is more than :data:`SMALL_MEMBER`."""
SMALL_MEMBER = 1 << 20
MAX_DOCUMENT = 32 << 20
"""Bytes of the document, which is read into memory."""


UNREADABLE = (
    zipfile.BadZipFile, zlib.error, lzma.LZMAError, EOFError, NotImplementedError, RuntimeError,
    struct.error, UnicodeError,
)  # fmt: skip
"""What the library raises of a file that is damaged, encrypted, or packed in a way unknown to it."""


class BadArchiveError(HourglassError):
    """An archive that cannot be taken in, with a sentence giving the reason."""


class Entry(BaseModel):
    """An entry of the log, with all that was decided after it."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    decision: Decision
    decided: dict[str, Any]


class EarlierDecision(BaseModel):
    """An entry as the first archives hold it."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    id: int
    made_at: datetime
    whole: bool = True
    reason: str = ""
    stage: str
    about: str
    choice: str
    sentence: str
    before: str = ""
    after: str = ""
    undoes: int | None = None
    redoes: int | None = None
    withdraws: tuple[int, ...] = ()

    @property
    def entry(self) -> EarlierEntry:
        """What it holds of what was decided."""
        names = {one.name for one in fields(EarlierEntry)}
        return EarlierEntry(**self.model_dump(include=names))


class EarlierLogEntry(BaseModel):
    """An entry of the log of the first archives, with all that was decided after it."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    decision: EarlierDecision
    decided: dict[str, Any]


class ArchivedStudy(BaseModel):
    """What an archive holds of its study; steps are named in what was decided by their ids."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    format: Literal["olden-hourglass study"] = "olden-hourglass study"
    version: Literal[1, 2] = 2
    name: str
    exports: tuple[Extract, ...]
    analyses: tuple[Analysis, ...]
    steps: tuple[PlacedStep, ...]
    log: tuple[Entry | EarlierLogEntry, ...]


def archived(repository: StudyRepository, blobs: BlobStore, study_id: UUID) -> bytes:
    """A study as an archive, a ZIP file; results are not in it, for they are made again."""
    study = repository.load(study_id)
    whole = [d for d in study.decisions if d.whole]
    decided = {d.id: repository.snapshot_at(study.id, d.id) for d in whole}
    steps = {step.id: step for one in decided.values() for step in one.steps}
    document = ArchivedStudy(
        name=study.name,
        exports=study.extracts,
        analyses=study.looked_at,
        steps=tuple(steps[k] for k in sorted(steps)),
        log=tuple(Entry(decision=d, decided=to_json(decided[d.id])) for d in whole),
    )
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as made:
        _put(made, DOCUMENT, document.model_dump_json(indent=1).encode())
        for name in _files(document):
            _put(made, f"files/{name}", blobs.get(name))
    return out.getvalue()


def taken_in(repository: StudyRepository, blobs: BlobStore, source: BinaryIO) -> Study:
    """Make a study of an archive, whole or not at all; its files are taken in a piece at a time.

    Raises:
        BadArchiveError: when it is none, was damaged, or does not hold what it names.
    """
    try:
        with zipfile.ZipFile(source) as archive, blobs.staged() as staging:
            _refuse_too_large(archive)
            document = ArchivedStudy.model_validate_json(archive.read(DOCUMENT))
            for name in _files(document):
                with archive.open(f"files/{name}") as file:
                    if staging.add(cast(BinaryIO, file)) != name:
                        raise BadArchiveError(f"A file of the archive has been damaged: {name}.")
            for extract in document.exports:
                whole = archive.read(f"files/{extract.sha256}")
                _refuse_other_table(whole, archive.read(f"files/{extract.table_sha256}"), extract)
            with repository.transaction() as inside:
                made = copied(inside, document)
                # On the disk before the database lists them.
                staging.keep()
                return made
    except UNREADABLE:
        raise BadArchiveError("This is no archive of a study, or it was damaged.") from None
    except (KeyError, ValidationError) as why:
        raise BadArchiveError(
            f"The archive does not hold what a study is made of: {why}."
        ) from None


def _refuse_too_large(archive: zipfile.ZipFile) -> None:
    """Refuse what would take too much room before any of it is unpacked."""
    entries = archive.infolist()
    if len(entries) > MAX_MEMBERS:
        raise BadArchiveError(f"The archive holds {len(entries)} files, more than {MAX_MEMBERS}.")
    if sum(entry.file_size for entry in entries) > MAX_UNPACKED:
        raise BadArchiveError("The archive unpacks to more than 2 GB.")
    for entry in entries:
        if entry.file_size > max(MAX_RATIO * entry.compress_size, SMALL_MEMBER):
            raise BadArchiveError(
                f"{entry.filename} unpacks to more than {MAX_RATIO} times its size: no study does."
            )
        if entry.filename == DOCUMENT and entry.file_size > MAX_DOCUMENT:
            raise BadArchiveError(
                f"The document of the archive is larger than {MAX_DOCUMENT >> 20} MB."
            )


def _refuse_other_table(file: bytes, table: bytes, extract: Extract) -> None:
    """Refuse a table that cannot be read, or is not what the file of its data extract holds."""
    try:
        held, written = checked_parquet(table), read(file, extract.recipe).table
    except UnreadableFileError as why:
        raise BadArchiveError(f"The table of {extract.name} cannot be used. {why}") from None
    if held.size != written.size or held.size != extract.rows:
        raise BadArchiveError(
            f"The table of {extract.name} has {grouped(held.size)} rows where its file has "
            f"{grouped(written.size)}: it is not the table of that file."
        )
    names = [column.name for column in written.columns]
    if [column.name for column in held.columns] != names:
        raise BadArchiveError(
            f"The table of {extract.name} has other columns than its file: it is not the table of that file."
        )
    for a, b in zip(held.columns, written.columns, strict=True):
        # Another kind is another way of reading, as of an older program; other cells are other data.
        if a.kind == b.kind and (other := first_difference(a, b)) is not None:
            raise BadArchiveError(
                f"The table of {extract.name} has “{a.cell(other)}” in {a.name}, row {other + 1}, where its "
                f"file has “{b.cell(other)}”: it is not the table of that file."
            )


def copied(repository: StudyRepository, document: ArchivedStudy) -> Study:
    """The study that an archive holds, with its whole log; its files must be kept elsewhere.

    Raises:
        BadArchiveError: when it holds no log.
    """
    if not document.log:
        raise BadArchiveError("The archive does not hold a log.")
    steps = {step.id: step for step in document.steps}
    log = _log(document, steps)
    begun = log[0][0].made_at
    made = repository.load(repository.create(log[0][1].name, at=begun))
    study = Study(
        id=made.id,
        demo=None,
        extracts=document.exports,
        looked_at=document.analyses,
        snapshot=StudySnapshot(name=document.name),
        decisions=(),
    )
    copy = Copying(repository, study, made)
    for decision, decided in log:
        copy.take(decision, decided, decision.made_at)
    return copy.made


def _log(
    document: ArchivedStudy, steps: Mapping[int, PlacedStep]
) -> list[tuple[Decision, StudySnapshot]]:
    """The log, entries of the first archives with their actions."""
    extracts = {extract.id: extract for extract in document.exports}
    found, known = list[tuple[Decision, StudySnapshot]](), dict[int, Action]()
    for entry in document.log:
        now = from_json(entry.decided, steps)
        if isinstance(entry, Entry):
            known[entry.decision.id] = entry.decision.action
            found.append((entry.decision, now))
            continue
        old, before = entry.decision, found[-1][1] if found else None
        new = NewDecision(
            action=action_of(old.entry, before, now, extracts, known),
            reason=old.reason,
            undoes=old.undoes,
            redoes=old.redoes,
            withdraws=old.withdraws,
        )
        known[old.id] = new.action
        found.append((new.logged(old.id, old.made_at, whole=old.whole), now))
    return found


def _files(document: ArchivedStudy) -> list[str]:
    """The names of all bytes that the data extracts are made of, each once."""
    return sorted(
        {n for extract in document.exports for n in (extract.sha256, extract.table_sha256)}
    )


def _put(archive: zipfile.ZipFile, name: str, data: bytes) -> None:
    entry = zipfile.ZipInfo(name, WHEN)
    entry.compress_type = zipfile.ZIP_DEFLATED
    archive.writestr(entry, data)

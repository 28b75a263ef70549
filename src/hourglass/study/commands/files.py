"""Commands on a study's data: files read, data extracts received, accepted and refused."""

from collections.abc import Sequence
from dataclasses import replace

from hourglass.cohort.reading.packed import PackedReading
from hourglass.cohort.steps.document import PlacedStep
from hourglass.core.errors import UserError
from hourglass.study.actions.data import (
    ExtractReceived,
    ExtractRefused,
    ExtractTaken,
    FileAttached,
    FileReadOtherwise,
)
from hourglass.study.actions.turns import StudyBegun, StudyRenamed
from hourglass.study.history import NewDecision
from hourglass.study.repository import BlobStore, NewFile, StudyRepository
from hourglass.study.study import FileAlreadyReadError, Study, StudySnapshot


def kept_file(
    blobs: BlobStore, name: str, data: bytes, reading: PackedReading, sha256: str = ""
) -> NewFile:
    """Keep the bytes of a file that was read, and its table.

    Args:
        sha256: of the bytes, where they are kept already.
    """
    return NewFile(
        name=name,
        sha256=sha256 or blobs.put(data),
        table_sha256=blobs.put(reading.table),
        size=len(data),
        reading=reading,
    )


def attach_file(
    repository: StudyRepository, study: Study, file: NewFile, planned: StudySnapshot | None = None
) -> Study:
    """Give a study its file, or another while nothing depends on it.

    Args:
        planned: what was decided of the file before it came; else the statement proposed for it is taken.

    Raises:
        FileAlreadyReadError: when steps or statements depend on the file that is there.
    """
    if depended_on(study):
        raise FileAlreadyReadError(
            "Steps, decisions or statements were made for the study's file. Send this one as a new "
            "export, or start a new study."
        )
    before = "" if study.file is None else study.file.name
    action = FileAttached(name=file.name, sha256=file.sha256, before=before)
    snapshot = planned or replace(study.snapshot, follow_up=file.reading.proposal)
    with repository.transaction() as inside:
        extract = inside.add_extract(study.id, file, waiting=False)
        return inside.append(study, NewDecision(action=action), replace(snapshot, extract=extract))


def depended_on(study: Study) -> bool:
    """Whether anything was decided that depends on the study's file."""
    apart = (StudyBegun, StudyRenamed, FileAttached)
    about_data = [d for d in study.standing if not isinstance(d.action, apart)]
    return study.file is not None and bool(about_data)


def read_again(repository: StudyRepository, study: Study, file: NewFile) -> Study:
    """Read the same bytes by another recipe. Steps stay; those that no longer fit carry a message."""
    before = study.file
    assert before is not None
    action = FileReadOtherwise(
        before=before.recipe,
        after=file.reading.recipe,
        how_before=before.how_read,
        how=file.reading.how,
    )
    with repository.transaction() as inside:
        extract = inside.add_extract(study.id, file, waiting=False)
        snapshot = replace(study.snapshot, extract=extract)
        return inside.append(study, NewDecision(action=action), snapshot)


def receive_extract(repository: StudyRepository, study: Study, file: NewFile) -> Study:
    """Keep a new data extract waiting until somebody accepts it; it takes the place of one that waited.

    Raises:
        UserError: when it holds just what the study has already.
    """
    if study.file is not None and file.table_sha256 == study.file.table_sha256:
        raise UserError("This file holds just what the study has already.", "same-extract", "file")
    action = ExtractReceived(name=file.name, sha256=file.sha256)
    with repository.transaction() as inside:
        inside.add_extract(study.id, file, waiting=True)
        return inside.append(study, NewDecision(action=action), study.snapshot)


def refuse_extract(repository: StudyRepository, study: Study) -> Study:
    """Let go of the data extract that waits, if any."""
    waiting = study.waiting
    if waiting is None:
        return study
    with repository.transaction() as inside:
        inside.forget_waiting_export(study.id)
        action = ExtractRefused(name=waiting.name)
        return inside.append(study, NewDecision(action=action), study.snapshot)


def use_extract(
    repository: StudyRepository,
    study: Study,
    extract: int,
    name: str,
    carried: Sequence[PlacedStep] | None,
) -> Study:
    """Take another data extract into use.

    Args:
        carried: the steps carried over to it; None for those it had when it was last in use.
    """
    if carried is None:
        last = repository.last_with_extract(study.id, extract)
        carried = () if last is None else last.steps
    before = "" if study.file is None else study.file.name
    action = ExtractTaken(export=extract, name=name, before=before)
    snapshot = replace(study.snapshot, extract=extract, steps=tuple(carried))
    return repository.append(study, NewDecision(action=action), snapshot)

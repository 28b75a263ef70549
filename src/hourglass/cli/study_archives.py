"""Studies of the program's own database as archives, and archives as studies."""

from pathlib import Path
from uuid import UUID

from hourglass.cli.kept import kept_studies
from hourglass.cli.machine import announce
from hourglass.cli.out_folder import refuse_written
from hourglass.store.blobs import MissingBlobError
from hourglass.study.archive import BadArchiveError, archived, taken_in
from hourglass.study.study import NoSuchStudyError

DONE, NOT_DONE = 0, 1


def list_studies() -> int:
    """Print every study: its id, its name and its file."""
    with kept_studies() as (repository, _):
        for line in repository.studies():
            print(f"{line.id}  {line.name}  {line.file_name or 'no file yet'}")
    return DONE


def list_deletions() -> int:
    """Print every study that was deleted: when, its id, its name, and when it was brought back."""
    with kept_studies() as (repository, _):
        for line in repository.deletions():
            back = (
                ""
                if line.restored_at is None
                else f"  brought back {line.restored_at:%Y-%m-%d %H:%M}"
            )
            print(f"{line.deleted_at:%Y-%m-%d %H:%M}  {line.study}  {line.name}{back}")
    return DONE


def export_study(which: str, out: Path, replace: bool = False) -> int:
    """Write a study, named by its id or its name, into an archive; gives the exit code.

    Args:
        replace: whether a file that is there already may be written over.
    """
    if refuse_written(out, replace):
        return NOT_DONE
    with kept_studies() as (repository, blobs):
        found = [line.id for line in repository.studies() if which in (str(line.id), line.name)]
        if len(found) != 1:
            many = f"{len(found)} studies are" if found else "There is no study"
            announce(f"{many} called “{which}”: name it by its id, which “study list” prints.")
            return NOT_DONE
        try:
            out.write_bytes(archived(repository, blobs, UUID(str(found[0]))))
        except (NoSuchStudyError, MissingBlobError, OSError) as why:
            announce(f"The study cannot be written: {why}")
            return NOT_DONE
    print(out)
    return DONE


def import_study(file: Path) -> int:
    """Make a study of an archive; gives the exit code."""
    with kept_studies() as (repository, blobs):
        try:
            with file.open("rb") as archive:
                made = taken_in(repository, blobs, archive)
        except (BadArchiveError, OSError) as why:
            announce(str(why))
            return NOT_DONE
    print(f"{made.id}  {made.name}")
    return DONE

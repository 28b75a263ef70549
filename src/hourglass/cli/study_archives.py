"""Studies of the program's own database as archives, and archives as studies."""

import os
from collections.abc import Iterator
from contextlib import contextmanager, nullcontext
from pathlib import Path
from uuid import UUID

import psycopg
from psycopg.rows import dict_row

from hourglass.cli.cluster import own_cluster
from hourglass.cli.machine import ROOT, say
from hourglass.cli.serve import only_one
from hourglass.store.blobs import Blobs, MissingBlobError
from hourglass.store.migrate import migrate
from hourglass.store.postgres import Postgres
from hourglass.study.archive import BadArchiveError, archived, taken_in
from hourglass.study.study import NoSuchStudyError

DONE, NOT_DONE = 0, 1


def list_studies() -> int:
    """Print every study: its id, its name and its file."""
    with _kept() as (keeping, _):
        for line in keeping.studies():
            print(f"{line.id}  {line.name}  {line.file_name or 'no file yet'}")
    return DONE


def export_study(which: str, out: Path, replace: bool = False) -> int:
    """Write a study, named by its id or its name, into an archive; gives the exit code.

    Args:
        replace: whether a file that is there already may be written over.
    """
    if out.exists() and not replace:
        say(f"{out} is there already: name another file, or add --replace.")
        return NOT_DONE
    with _kept() as (keeping, blobs):
        found = [line.id for line in keeping.studies() if which in (str(line.id), line.name)]
        if len(found) != 1:
            many = f"{len(found)} studies are" if found else "There is no study"
            say(f"{many} called “{which}”: name it by its id, which “study list” prints.")
            return NOT_DONE
        try:
            out.write_bytes(archived(keeping, blobs, UUID(str(found[0]))))
        except (NoSuchStudyError, MissingBlobError, OSError) as why:
            say(f"The study cannot be written: {why}")
            return NOT_DONE
    print(out)
    return DONE


def import_study(file: Path) -> int:
    """Make a study of an archive; gives the exit code."""
    with _kept() as (keeping, blobs):
        try:
            with file.open("rb") as archive:
                made = taken_in(keeping, blobs, archive)
        except (BadArchiveError, OSError) as why:
            say(str(why))
            return NOT_DONE
    print(f"{made.id}  {made.name}")
    return DONE


@contextmanager
def _kept() -> Iterator[tuple[Postgres, Blobs]]:
    """Where the program keeps its studies; beside a server that runs as well as without one."""
    var = Path(os.environ.get("HOURGLASS_VAR", ROOT / "var")).absolute()
    var.mkdir(parents=True, exist_ok=True)
    with _database(var) as address:
        with psycopg.connect(address, autocommit=True) as connection:
            migrate(connection)
        with psycopg.connect(address, autocommit=True, row_factory=dict_row) as db:
            yield Postgres(lambda: nullcontext(db)), Blobs(var / "files")


@contextmanager
def _database(var: Path) -> Iterator[str]:
    """The address of the database: that of the server that runs, else started for as long as it is used."""
    named = os.environ.get("DATABASE_URL")
    cluster = None if named else own_cluster(var)
    if named or cluster is None:
        yield str(named)
    elif cluster.running():
        yield cluster.start()
    else:
        with only_one(var):
            try:
                yield cluster.start()
            finally:
                cluster.stop()

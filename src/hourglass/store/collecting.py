"""What nothing names any more: deleted studies after some days, and files that no row names."""

from hourglass.store.blobs import Blobs
from hourglass.store.queries import query
from hourglass.store.rows import Db
from hourglass.store.studies import purge_studies

AT_START, WHILE_RUNNING = 10.0, 86_400.0
"""Seconds for which a file may lie without a row: that of an upload is written before the upload is read."""


def named_files(db: Db) -> set[str]:
    """The names of all files that some data extract is made of."""
    return {row["name"] for row in db.execute(query("files_of_extracts"))}


def collect(db: Db, blobs: Blobs, older: float) -> int:
    """Let go of what was deleted some days ago, and of files without a row; gives how many files.

    Files that lie beside another database are left alone: they have their rows there.
    """
    purge_studies(db)
    named, (row,) = named_files(db), db.execute(query("identity"))
    return blobs.collect(named, older) if blobs.belong_to(str(row["id"]), named) else 0

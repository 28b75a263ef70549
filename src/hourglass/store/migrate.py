"""Numbered migrations, each applied once and whole."""

import re
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from importlib.resources import files
from typing import Any

from psycopg import Connection, connect
from psycopg.rows import dict_row, scalar_row

from hourglass.core.errors import HourglassError
from hourglass.store.actions import find_actions
from hourglass.store.rows import Db

AFTERWARDS: dict[int, Callable[[Connection[Any]], None]] = {10: find_actions}
"""What is found by the program once a migration has been applied."""
LOCK = 7_260_2111
"""An advisory lock, so that two programs starting at once do not both migrate."""


class NewerDatabaseError(HourglassError):
    """The database was written by a newer program than this one."""


def migrations() -> list[tuple[int, str, str]]:
    """(number, file name, SQL) of every migration, in order."""
    found = []
    for file in files("hourglass.store").joinpath("migrations").iterdir():
        match = re.fullmatch(r"(\d{4})_\w+\.sql", file.name)
        if match:
            found.append((int(match[1]), file.name, file.read_text(encoding="utf-8")))
    return sorted(found)


def version(connection: Connection[Any]) -> int:
    """The number of the last migration applied; 0 for an empty database."""
    with connection.cursor(row_factory=scalar_row) as cursor:
        if not cursor.execute("select to_regclass('migrations') is not null").fetchone():
            return 0
        found = cursor.execute("select coalesce(max(number), 0) from migrations").fetchone()
        return int(found or 0)


@contextmanager
def opened(address: str) -> Iterator[Db]:
    """A connection to a database, brought up to date, each statement its own transaction.

    Raises:
        NewerDatabaseError: when the database knows migrations that this program does not.
        psycopg.Error: when it does not answer.
    """
    with connect(address, autocommit=True, row_factory=dict_row) as db:
        migrate(db)
        yield db


def migrate(connection: Connection[Any]) -> int:
    """Bring the database up to date, in one transaction; returns its version.

    Raises:
        NewerDatabaseError: when the database knows migrations that this program does not.
    """
    known = migrations()
    newest = known[-1][0]
    with connection.transaction():
        connection.execute("select pg_advisory_xact_lock(%s)", [LOCK])
        connection.execute(
            "create table if not exists migrations (number integer primary key, name text not null,"
            " applied_at timestamptz not null default now())"
        )
        at = version(connection)
        if at > newest:
            raise NewerDatabaseError(
                f"The database is at version {at}, this program knows {newest}: "
                "start a newer Olden Hourglass, or point it to another database."
            )
        for number, name, sql in known:
            if number > at:
                connection.execute(sql)
                if number in AFTERWARDS:
                    AFTERWARDS[number](connection)
                connection.execute(
                    "insert into migrations (number, name) values (%s, %s)", [number, name]
                )
    return newest

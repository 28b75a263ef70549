"""Rows as the database gives them."""

from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

from psycopg import Connection, Cursor, IsolationLevel
from psycopg.pq import TransactionStatus

from hourglass.store.queries import query
from hourglass.study.study import NoSuchStudyError

Row = dict[str, Any]
Db = Connection[Row]
Reads = Db | Cursor[Row]
"""What can be read from: a connection, or a cursor of one that gives other rows."""


@contextmanager
def snapshot(db: Db) -> Iterator[bool]:
    """All that is read is the database of one moment, whatever is written meanwhile.

    Within a transaction that is open already, it is that transaction’s; gives whether all of it is settled,
    which what that transaction has written itself is not.
    """
    if db.info.transaction_status != TransactionStatus.IDLE:
        with db.transaction():
            yield False
        return
    before, db.isolation_level = db.isolation_level, IsolationLevel.REPEATABLE_READ
    try:
        with db.transaction():
            yield True
    finally:
        db.isolation_level = before


def one(db: Db, named: str, /, **values: object) -> Row:
    """The row that a query returns.

    Raises:
        NoSuchStudyError: when it returns none.
    """
    row = db.execute(query(named), values).fetchone()
    if row is None:
        raise NoSuchStudyError("There is no such study, or it has changed: reload the page.")
    return row

"""Rows as the database gives them."""

from typing import Any

from psycopg import Connection

from hourglass.store.queries import query
from hourglass.study.study import NoSuchStudyError

Row = dict[str, Any]
Db = Connection[Row]


def one(db: Db, named: str, /, **values: object) -> Row:
    """The row that a query returns.

    Raises:
        NoSuchStudyError: when it returns none.
    """
    row = db.execute(query(named), values).fetchone()
    if row is None:
        raise NoSuchStudyError("There is no such study, or it has changed: reload the page.")
    return row

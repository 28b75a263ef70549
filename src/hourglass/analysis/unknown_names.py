"""Columns and levels that a statement names and the table does not have.

What a statement named before it was changed is let stand: where it is used, it is shown to be gone.
"""

from hourglass.analysis.shared.groups import levels_of
from hourglass.analysis.shared.statement import StageStatement
from hourglass.cohort.statement import FollowUpStatement
from hourglass.cohort.table import NoSuchColumnError, Table, TextColumn
from hourglass.core.errors import HourglassError


class NoSuchLevelError(HourglassError):
    """A statement names a level that its column does not have."""

    def __init__(self, column: str, level: str) -> None:
        self.column, self.level = column, level
        super().__init__(f"there is no level “{level}” of {column}")


def refuse_unknown_columns(
    statement: FollowUpStatement, before: FollowUpStatement, table: Table
) -> None:
    """Refuse a follow-up statement that newly names a column which is not there.

    Raises:
        NoSuchColumnError
    """
    for name in sorted(statement.columns - before.columns):
        if not table.has(name):
            raise NoSuchColumnError(name)


def refuse_unknown_names(
    statement: StageStatement, before: StageStatement | None, table: Table
) -> None:
    """Refuse the statement of a stage that newly names a column or a level which is not there.

    Raises:
        NoSuchColumnError
        NoSuchLevelError
    """
    known = frozenset[str]() if before is None else frozenset(before.columns())
    for name in statement.columns():
        if name not in known and not table.has(name):
            raise NoSuchColumnError(name)
    named = () if before is None else before.levels()
    for column, level in statement.levels():
        if (column, level) not in named and _is_unknown(table, column, level):
            raise NoSuchLevelError(column, level)


def _is_unknown(table: Table, name: str, level: str) -> bool:
    """Whether a column that has levels has not this one; a column that is gone is another matter."""
    if not table.has(name):
        return False
    column = table.column(name)
    levels = levels_of(column)
    return level not in levels and (isinstance(column, TextColumn) or bool(levels))

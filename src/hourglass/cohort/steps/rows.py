"""Steps that leave rows out of everything that follows."""

from typing import Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from hourglass.cohort.condition import Condition, UnfitConditionError, fulfilled
from hourglass.cohort.steps.step import BrokenStepError, Done, RowNumber, StepBase, along, keys_of
from hourglass.cohort.table import Column, Table, TextColumn


class SetAside(StepBase):
    """Leave named rows out, by their numbers in the file."""

    kind: Literal["set_aside"] = "set_aside"
    rows: tuple[RowNumber, ...]
    why: str = Field(max_length=400)

    def named(self) -> str:
        return f"Set aside: {self.why}"

    def on(self, table: Table) -> Done:
        return Done(table=table.without(self.rows))


class SetAsideWhere(StepBase):
    """Leave out the rows that fulfil a condition, or those that do not."""

    kind: Literal["set_aside_where"] = "set_aside_where"
    condition: Condition
    keep: bool = False
    """Keep the rows that fulfil it and leave the others out."""

    def named(self) -> str:
        return f"{'Keep only' if self.keep else 'Set aside'} rows where {self.condition.named()}"

    def on(self, table: Table) -> Done:
        try:
            hit = fulfilled(self.condition, table)
        except UnfitConditionError as error:
            raise BrokenStepError(str(error)) from None
        return Done(table=table.take(np.flatnonzero(hit if self.keep else ~hit)))


def _in_order(column: Column, stays: Literal["first", "last"]) -> NDArray[np.int64]:
    """The places of rows by what a column holds; rows without one lie farthest from the one that stays."""
    if isinstance(column, TextColumn):
        raise BrokenStepError(f"{column.name} holds text: it has no first and last")
    values = np.where(column.missing, np.inf if stays == "first" else -np.inf, along(column))
    return np.argsort(values, kind="stable")


class SetAsideRepeats(StepBase):
    """Of rows that share a key, keep the first or the last; rows without a key all stay."""

    kind: Literal["set_aside_repeats"] = "set_aside_repeats"
    key: tuple[str, ...] = Field(min_length=1, max_length=20)
    stays: Literal["first", "last"] = "first"
    along: str = Field(default="", max_length=300)
    """The column by which a row is first or last; the order of the file where it is blank."""

    def named(self) -> str:
        by = f" by {self.along}" if self.along else ""
        return f"Of rows with one {', '.join(self.key)} keep the {self.stays}{by}"

    def on(self, table: Table) -> Done:
        key = keys_of(table, self.key)
        places = np.arange(table.size)
        if self.along:
            places = _in_order(table.column(self.along), self.stays)
        if self.stays == "last":
            places = places[::-1]
        _, first = np.unique(key[places], return_index=True)
        stays = np.zeros(table.size, dtype=bool)
        stays[places[first]] = True
        return Done(table=table.take(np.flatnonzero(stays | (key < 0))))

"""What a column is called in statements and steps."""

from dataclasses import replace
from typing import Literal

from pydantic import Field

from hourglass.cohort.steps.step import BrokenStepError, Done, StepBase
from hourglass.cohort.table import Table


class RenameColumn(StepBase):
    """Give a column another name, in its place."""

    kind: Literal["rename_column"] = "rename_column"
    column: str
    into: str = Field(default="", max_length=300)

    def named(self) -> str:
        return f"{self.column} is named {self.into or '…'}"

    def on(self, table: Table) -> Done:
        name, column = self.into.strip(), table.column(self.column)
        if not name:
            raise BrokenStepError("the column needs a name")
        if name != self.column and table.has(name):
            raise BrokenStepError(f"there is a column called “{name}” already: choose another name")
        columns = (replace(c, name=name) if c is column else c for c in table.columns)
        return Done(table=replace(table, columns=tuple(columns)))

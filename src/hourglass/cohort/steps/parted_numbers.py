"""The step that joins numbers which a decimal comma has parted in two cells."""

from typing import Literal

import pyarrow as pa
from pydantic import Field

from hourglass.cohort.reading.cells import typed_column
from hourglass.cohort.reading.parted_numbers import PARTED
from hourglass.cohort.reading.recipe import Recipe
from hourglass.cohort.steps.step import BrokenStepError, Done, StepBase
from hourglass.cohort.table import Table


class JoinPartedNumbers(StepBase):
    """In rows with one cell more than there are names, take a cell and the next for one number with a decimal
    comma; the names stand over the cells as the file has them."""

    kind: Literal["join_parted_numbers"] = "join_parted_numbers"
    column: str
    names: tuple[str, ...] = Field(min_length=1, max_length=5_000)

    def named(self) -> str:
        return f"Join the two cells of {self.column} at the decimal comma"

    def on(self, table: Table) -> Done:
        if self.column not in self.names:
            raise BrokenStepError(f"there is no name “{self.column}” in the header")
        if len(table.columns) != len(self.names) + 1:
            raise BrokenStepError(
                f"the table has {len(table.columns)} columns, not one more than the {len(self.names)} names"
            )
        place = self.names.index(self.column)
        cells = [[c.cell(row) for row in range(table.size)] for c in table.columns]
        longer = [bool(cell.strip()) for cell in cells[-1]]
        made = []
        for k, name in enumerate(self.names):
            own = list(cells[k])
            for row in (row for row, long in enumerate(longer) if long):
                if k == place:
                    own[row] = f"{cells[k][row]},{cells[k + 1][row]}"
                elif k > place:
                    own[row] = cells[k + 1][row]
            recipe = Recipe(decimal="," if k == place else ".")
            made.append(typed_column(name, pa.array(own, pa.string()), recipe).column)
        mended = tuple(m for m in table.mended if m.about not in (PARTED, "names", "ragged"))
        joined = Table(tuple(made), table.numbers, mended)
        return Done(table=joined, cells_changed=sum(longer), made="1 column fewer")

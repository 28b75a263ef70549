"""Steps on the levels of a text column, and on what columns are called."""

from dataclasses import replace
from typing import Literal

import numpy as np
from pydantic import Field

from hourglass.cohort.steps.file_text import file_text
from hourglass.cohort.steps.step import BrokenStepError, Done, StepBase, new_name, text_column_of
from hourglass.cohort.table import NumberColumn, Table, TextColumn


class RespellLevels(StepBase):
    """Give levels of a text column other names, merging those that become equal."""

    kind: Literal["respell_levels"] = "respell_levels"
    column: str
    spelling: dict[str, str] = Field(max_length=2000)
    into: str = Field(default="", max_length=300)
    """The name of a new column; blank to change the column itself."""
    in_place: bool = False
    """Whether levels keep their places, whatever their names."""

    def named(self) -> str:
        pairs = [f"“{a}” → “{b}”" for a, b in self.spelling.items() if a != b]
        shown = ", ".join(pairs[:4]) + (f" and {len(pairs) - 4} more" if len(pairs) > 4 else "")
        target = f" into {self.into}" if self.into and self.into != self.column else ""
        return f"{self.column}{target}: {shown}" if pairs else f"Spell {self.column} one way"

    def on(self, table: Table) -> Done:
        column = text_column_of(table, self.column)
        name = new_name(table, self.into, self.column)
        spelled = [self.spelling.get(level, level).strip() for level in column.levels]
        kept = {self.spelling.get(level, level).strip() for level in column.counts()}
        levels = tuple(level for level in dict.fromkeys(spelled) if level in kept and level)
        by_name = list(column.levels) == sorted(column.levels)  # nobody has put them in an order
        if by_name and not self.in_place:
            levels = tuple(sorted(levels))
        place = {level: k for k, level in enumerate(levels)}
        new = np.array([*(place.get(level, -1) for level in spelled), -1], dtype=np.int32)
        was = np.array([*(level in self.spelling for level in column.levels), False])
        cells = int(was[column.codes].sum())
        reference = self.spelling.get(column.reference, column.reference)
        changed = replace(
            column, name=name, codes=new[column.codes], levels=levels, reference=reference
        )
        strange = [v for v in self.spelling if v not in column.levels]
        note = f"not there: {', '.join(strange[:5])}" if strange else ""
        return Done(
            table=table.with_column(changed),
            cells_changed=cells,
            made=f"{len(levels)} levels",
            note=note,
        )


class OrderLevels(StepBase):
    """Put levels in an order, and choose the one that the others are compared with."""

    kind: Literal["order_levels"] = "order_levels"
    column: str
    order: tuple[str, ...] = Field(default=(), max_length=2000)
    reference: str = Field(default="", max_length=1000)

    def named(self) -> str:
        parts = [f"order {', '.join(self.order)}"] if self.order else []
        parts += [f"compare with {self.reference}"] if self.reference else []
        return f"{self.column}: {'; '.join(parts)}"

    def on(self, table: Table) -> Done:
        numbers = table.column(self.column)
        if isinstance(numbers, NumberColumn):
            return Done(table=table.with_column(self._of_numbers(numbers)))
        column = text_column_of(table, self.column)
        strange = [v for v in (*self.order, self.reference) if v and v not in column.levels]
        if strange:
            raise BrokenStepError(f"{column.name} has no level “{strange[0]}”")
        levels = tuple(dict.fromkeys([*self.order, *column.levels]))
        place = np.array([*(levels.index(level) for level in column.levels), -1], dtype=np.int32)
        changed = replace(
            column,
            codes=place[column.codes],
            levels=levels,
            reference=self.reference or column.reference,
        )
        return Done(table=table.with_column(changed))

    def _of_numbers(self, column: NumberColumn) -> NumberColumn:
        if self.order:
            raise BrokenStepError(f"{column.name} holds numbers, which have their order")
        held = {column.written(float(v)) for v in np.unique(column.values[~column.missing])}
        if self.reference and self.reference not in held:
            raise BrokenStepError(f"{column.name} is nowhere {self.reference}")
        return replace(column, reference=self.reference)


class LabelColumn(StepBase):
    """Give a column a label and a unit."""

    kind: Literal["label_column"] = "label_column"
    column: str
    label: str = Field(default="", max_length=300)
    unit: str = Field(default="", max_length=60)

    def named(self) -> str:
        return f"{self.column} is “{self.label or self.column}”{', in ' + self.unit if self.unit else ''}"

    def on(self, table: Table) -> Done:
        column = table.column(self.column)
        return Done(
            table=table.with_column(
                replace(column, label=self.label.strip(), unit=self.unit.strip())
            )
        )


class ReadAsText(StepBase):
    """Take a column for names of levels, each value a level, as the file wrote it."""

    kind: Literal["read_as_text"] = "read_as_text"
    column: str

    def named(self) -> str:
        return f"Take {self.column} for a category"

    def on(self, table: Table) -> Done:
        column = table.column(self.column)
        if isinstance(column, TextColumn):
            return Done(table=table)
        if not isinstance(column, NumberColumn):
            made = file_text(column)
            read = int((~made.missing).sum())
            return Done(
                table=table.with_column(made),
                cells_changed=read,
                made=f"{len(made.counts())} levels",
            )
        known = column.values[~column.missing]
        distinct = np.unique(known)
        levels = tuple(column.written(float(v)) for v in distinct)
        codes = np.searchsorted(distinct, column.values).astype(np.int32)
        codes[column.missing] = -1
        changed = TextColumn(
            name=column.name, codes=codes, levels=levels, label=column.label, unit=column.unit
        )
        return Done(
            table=table.with_column(changed),
            cells_changed=int(known.size),
            made=f"{len(levels)} levels",
        )

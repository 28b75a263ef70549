"""Steps: what people decided to do to the rows, applied in order and never to the file itself."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Annotated, Literal, TypeAlias

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from hourglass.cohort.table import (
    Column,
    DateColumn,
    NumberColumn,
    Table,
    TextColumn,
    is_missing_word,
)


class _Step(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")
    version: Literal[1] = 1


class SetAside(_Step):
    """Leave rows out of everything that follows."""

    kind: Literal["set_aside"] = "set_aside"
    rows: tuple[int, ...]
    why: str


class SwapCells(_Step):
    """Exchange the cells of two columns of one type in some rows."""

    kind: Literal["swap_cells"] = "swap_cells"
    rows: tuple[int, ...]
    columns: tuple[str, str]


class CorrectCell(_Step):
    """Write a new value into one cell; blank text makes it missing."""

    kind: Literal["correct_cell"] = "correct_cell"
    row: int
    column: str
    value: str = Field(max_length=1000)


class RespellLevels(_Step):
    """Give levels of a text column another spelling, merging those that become equal."""

    kind: Literal["respell_levels"] = "respell_levels"
    column: str
    spelling: dict[str, str]


Step: TypeAlias = Annotated[
    SetAside | SwapCells | CorrectCell | RespellLevels, Field(discriminator="kind")
]


class BrokenStepError(ValueError):
    """A step that cannot be applied to the table as it is; the message says why."""


@dataclass(frozen=True, slots=True)
class StepEffect:
    """What a step did: its name in words, rows set aside, cells changed."""

    name: str
    rows_set_aside: int
    cells_changed: int


def apply_steps(table: Table, steps: Sequence[Step]) -> tuple[Table, tuple[StepEffect, ...]]:
    """Apply steps in order.

    Raises:
        BrokenStepError: when a step does not fit the table.
        NoSuchColumnError: when a step names a column that is not there.
    """
    effects = []
    for step in steps:
        table, effect = _apply(table, step)
        effects.append(effect)
    return table, tuple(effects)


def _apply(table: Table, step: Step) -> tuple[Table, StepEffect]:
    match step:
        case SetAside():
            smaller = table.without(step.rows)
            return smaller, StepEffect(f"Set aside: {step.why}", table.size - smaller.size, 0)
        case SwapCells():
            return _swap(table, step)
        case CorrectCell():
            changed, cells = _correct(table, step)
            shown = step.value.strip() or "missing"
            return changed, StepEffect(f"Row {step.row}, {step.column}: {shown}", 0, cells)
        case RespellLevels():
            return _respell(table, step)


def _swap(table: Table, step: SwapCells) -> tuple[Table, StepEffect]:
    a, b = (table.column(name) for name in step.columns)
    rows = table.positions(step.rows)
    if not (isinstance(a, DateColumn) and isinstance(b, DateColumn)):
        raise BrokenStepError(f"{a.name} and {b.name} are not both dates and cannot be swapped")
    first, second = a.values.copy(), b.values.copy()
    first[rows], second[rows] = b.values[rows], a.values[rows]
    swapped = table.with_column(replace(a, values=first)).with_column(replace(b, values=second))
    return swapped, StepEffect(f"Swap {a.name} and {b.name}", 0, 2 * rows.size)


def _correct(table: Table, step: CorrectCell) -> tuple[Table, int]:
    rows = table.positions([step.row])
    column = table.column(step.column)
    return table.with_column(_with_cell(column, rows, step.value)), int(rows.size)


def _with_cell(column: Column, rows: np.ndarray, text: str) -> Column:
    missing = is_missing_word(text)
    match column:
        case NumberColumn():
            try:
                number = np.nan if missing else float(text)
            except ValueError:
                raise BrokenStepError(f"“{text}” is not a number, as {column.name} needs") from None
            values = column.values.copy()
            values[rows] = number
            decimals = len(text.strip().partition(".")[2])
            return replace(column, values=values, decimals=max(column.decimals, min(decimals, 10)))
        case DateColumn():
            try:
                day = np.datetime64("NaT" if missing else text.strip(), "D")
            except ValueError:
                raise BrokenStepError(
                    f"“{text}” is not a date such as 2021-04-30, as {column.name} needs"
                ) from None
            dates = column.values.copy()
            dates[rows] = day
            return replace(column, values=dates)
        case TextColumn():
            levels = column.levels if missing or text in column.levels else (*column.levels, text)
            codes = column.codes.copy()
            codes[rows] = -1 if missing else levels.index(text)
            return replace(column, codes=codes, levels=levels)


def _respell(table: Table, step: RespellLevels) -> tuple[Table, StepEffect]:
    column = table.column(step.column)
    if not isinstance(column, TextColumn):
        raise BrokenStepError(f"{column.name} has no levels to spell otherwise")
    spelled = [step.spelling.get(level, level) for level in column.levels]
    levels = tuple(sorted(set(spelled)))
    new = np.array([levels.index(level) for level in spelled], dtype=np.int32)
    was = np.array([level in step.spelling for level in column.levels], dtype=bool)
    held = column.codes >= 0
    codes = column.codes.copy()
    codes[held] = new[column.codes[held]]
    cells = int(was[column.codes[held]].sum())
    respelled = table.with_column(replace(column, codes=codes, levels=levels))
    return respelled, StepEffect(f"Spell {column.name} one way", 0, cells)

"""Taking apart cells that hold a number and its unit."""

import re
from collections.abc import Iterable
from typing import Literal

import numpy as np
from pydantic import Field

from hourglass.cohort.steps.step import BrokenStepError, Done, StepBase, text_column_of
from hourglass.cohort.table import NumberColumn, Table, decimals_in
from hourglass.cohort.units import factor, short_m, unit_of
from hourglass.cohort.words import grouped

NUMBER = r"[+−-]?(?:\d{1,3}(?:[ ,.'\u00a0\u2009\u202f]\d{3})+(?:[.,]\d+)?|\d+(?:[.,]\d+)?|[.,]\d+)"
ONE = re.compile(rf"\s*({NUMBER})\s*([A-Za-zµμ%°][A-Za-zµμ%°²³/.]*)\s*[,;]?")
MAX_LOOKED_AT = 2_000
SPACES = re.compile(r"[\s\u00a0\u2009\u202f']")


class TakeUnitApart(StepBase):
    """Read cells such as "1,287 h", "12 d" or "3 mo 4 d" as numbers in one unit."""

    kind: Literal["take_unit_apart"] = "take_unit_apart"
    column: str
    unit: str = Field(min_length=1, max_length=40)
    decimal: Literal[".", ","] = "."
    into: str = Field(default="", max_length=300)

    def named(self) -> str:
        into = f" as {self.into}" if self.into and self.into != self.column else ""
        return f"Take number and unit of {self.column} apart, in {self.unit}{into}"

    def on(self, table: Table) -> Done:
        column = text_column_of(table, self.column)
        unit = unit_of(self.unit)
        short = short_m_in(column.levels, self.decimal)
        values = np.full(len(column.levels) + 1, np.nan)
        lost: list[str] = []
        for k, level in enumerate(column.levels):
            found = value_of(level, unit, self.decimal, short)
            if found is None:
                lost.append(level)
            else:
                values[k] = found
        spread = values[column.codes]
        if not np.isfinite(spread).any():
            raise BrokenStepError(f"no cell of {column.name} holds a number in {self.unit}")
        made = NumberColumn(
            name=self.into or column.name,
            values=spread,
            decimals=decimals_in(spread),
            label=column.label,
            unit=unit,
        )
        gone = int((np.isnan(spread) & ~column.missing).sum())
        shown = ", ".join(lost[:5])
        note = (
            f"{grouped(gone)} cells hold no such number and are missing now: {shown}"
            if gone
            else ""
        )
        changed = int(np.isfinite(spread).sum())
        return Done(
            table=table.with_column(made), cells_changed=changed, made=f"in {unit}", note=note
        )


def short_m_in(levels: Iterable[str], decimal: str = ".") -> str:
    """What a bare “m” is short for in the cells of a column."""
    some = [level for level in levels if "m" in level][:MAX_LOOKED_AT]
    return short_m(unit for level in some for _, unit in parts_of(level, decimal))


def parts_of(cell: str, decimal: str = ".", short: str = "m") -> list[tuple[float, str]]:
    """The numbers and units of a cell, in order; none where it holds anything else.

    A cell of several parts, such as "3 mo 4 d", is their sum. ``short`` is what a bare “m” is
    short for.
    """
    found, at, text = [], 0, cell.strip()
    while at < len(text):
        match = ONE.match(text, at)
        if match is None:
            return []
        number = _number(match[1], decimal)
        if number is None:
            return []
        unit = unit_of(match[2])
        found.append((number, short if unit == "m" else unit))
        at = match.end()
    return found


def value_of(cell: str, unit: str, decimal: str = ".", short: str = "m") -> float | None:
    """What a cell comes to in a unit; None where it holds no number, or in a unit that does not convert."""
    parts = parts_of(cell, decimal, short)
    if not parts:
        return None
    total = 0.0
    for number, held in parts:
        by = factor(held, unit)
        if by is None:
            return None
        total += number * by
    return total


def _number(text: str, decimal: str) -> float | None:
    plain = SPACES.sub("", text).replace("−", "-")
    thousands = "," if decimal == "." else "."
    if thousands in plain and not re.fullmatch(
        rf"[+-]?\d{{1,3}}(\{thousands}\d{{3}})+(\{decimal}\d+)?", plain
    ):
        return None
    plain = plain.replace(thousands, "").replace(decimal, ".")
    try:
        return float(plain)
    except ValueError:
        return None

"""How a figure arose: its formula with numbers put in, and the table of terms it is summed from."""

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np
from pydantic import BaseModel

from hourglass.analysis.shared import wording
from hourglass.analysis.shared.cell import Cell, Raw
from hourglass.analysis.shared.statement import StageStatement
from hourglass.analysis.shared.typed import Typed
from hourglass.cohort.followup import Cohort

PAGE = 200


@dataclass(frozen=True, slots=True)
class TermColumn:
    """A column of the table of terms, at full precision: (m,) values, NaN where not defined."""

    key: str
    label: str
    values: np.ndarray
    whole: bool = False

    def raw(self, k: int) -> Raw:
        """The value of a row; None where it is not defined."""
        value = self.values[k]
        if self.whole:
            return int(value)
        return float(value) if np.isfinite(value) else None

    def cell(self, k: int) -> Cell:
        """The value of a row, worded."""
        value = self.raw(k)
        if value is None:
            return Cell(text="")
        text = wording.grouped(int(value)) if self.whole else digits(float(value))
        return Cell(text=text, raw=value)


@dataclass(frozen=True, slots=True)
class Workings:
    """How a figure arose.

    Attributes:
        title: the figure and its value.
        formula: lines, from the definition to the value, with numbers put in.
        columns: the terms it is summed from.
        marked: the row the figure is read from, if one.
        note: where the definition comes from, and what to mind.
    """

    title: str
    formula: tuple[str, ...]
    columns: tuple[TermColumn, ...]
    marked: int | None = None
    note: str = ""

    @property
    def size(self) -> int:
        """Number of terms."""
        return int(self.columns[0].values.size) if self.columns else 0

    def page(self, first: int = 0, most: int = PAGE) -> "WorkingsPage":
        """The workings with some of their terms, worded."""
        rows = range(min(first, self.size), min(first + most, self.size))
        return WorkingsPage(
            title=self.title,
            formula=list(self.formula),
            head=[c.label for c in self.columns],
            first=first,
            total=self.size,
            rows=[[c.cell(k) for c in self.columns] for k in rows],
            marked=self.marked,
            note=self.note,
        )

    def lines(self) -> Iterator[list[Raw]]:
        """The keys of the columns, then all terms at full precision."""
        yield [c.key for c in self.columns]
        for k in range(self.size):
            yield [c.raw(k) for c in self.columns]


class WorkingsPage(Typed):
    """Workings with a page of their terms: ``total`` in all, these from ``first`` on."""

    title: str
    formula: list[str]
    head: list[str]
    first: int
    total: int
    rows: list[list[Cell]]
    marked: int | None
    note: str


@dataclass(frozen=True, slots=True)
class WorkedFigure:
    """A figure of a stage that can be worked out.

    Attributes:
        key: its name in addresses and in the cells that open it.
        about: what it is asked with, a type with a schema.
        work: the workings, from the cohort, the statements that the stage needs, and what was asked.
    """

    key: str
    about: type[BaseModel]
    work: Callable[[Cohort, Mapping[str, StageStatement], Any], Workings]


class Nothing(Typed):
    """Workings that are asked for as they are."""


class NoWorkingsError(LookupError):
    """There is no such figure; the message says which."""


def whole(key: str, label: str, values: np.ndarray) -> TermColumn:
    """A column of whole numbers."""
    return TermColumn(key, label, values, whole=True)


def decimal(key: str, label: str, values: np.ndarray) -> TermColumn:
    """A column of decimal numbers."""
    return TermColumn(key, label, np.asarray(values, dtype=np.float64))


def digits(value: float | None) -> str:
    """A number in a formula: seven significant digits."""
    return wording.BLANK if value is None else f"{value:.7g}".replace("-", wording.MINUS, 1)


def squared(value: float) -> str:
    """A number in a formula, squared: one below 0 stands in brackets."""
    return f"({digits(value)})²" if value < 0 else f"{digits(value)}²"

"""How a figure arose: its formula with numbers put in, and the table of terms it is summed from."""

import math
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field, replace
from typing import Any, TypeAlias

import numpy as np
from pydantic import BaseModel, JsonValue

from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.cell import Cell, Raw, WorkingsOf
from hourglass.analysis.shared.frozen_model import FrozenModel
from hourglass.analysis.shared.statement import StageStatement
from hourglass.cohort.followup import Cohort
from hourglass.core.errors import HourglassError

PAGE = 200


@dataclass(frozen=True, slots=True)
class Opens:
    """Further workings that the values of a column open, each put in as ``by``."""

    figure: str
    by: str
    about: Mapping[str, JsonValue] = field(default_factory=dict)

    def at(self, value: Raw) -> WorkingsOf:
        """What a value opens."""
        return WorkingsOf(figure=self.figure, about={**self.about, self.by: value})


@dataclass(frozen=True, slots=True)
class WordColumn:
    """A column of words beside the terms: (m,) places in ``words``, by which they are sorted; −1 for none."""

    key: str
    label: str
    values: np.ndarray
    words: tuple[str, ...]

    def raw(self, k: int) -> Raw:
        """The words of a row."""
        place = int(self.values[k])
        return self.words[place] if place >= 0 else ""

    def cell(self, k: int) -> Cell:
        """The same, as a cell."""
        return Cell(text=str(self.raw(k)), raw=self.raw(k))


@dataclass(frozen=True, slots=True)
class TermColumn:
    """A column of the table of terms, at full precision: (m,) values, NaN where not defined."""

    key: str
    label: str
    values: np.ndarray
    whole: bool = False
    opens: Opens | None = None

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
        text = formatting.grouped(int(value)) if self.whole else digits(float(value))
        opened = None if self.opens is None else self.opens.at(value)
        return Cell(text=text, raw=value, workings=opened)


AnyColumn: TypeAlias = TermColumn | WordColumn


class TypedIn(FrozenModel):
    """A value that is typed, with which the workings are requested again.

    ``opens`` holds their present parameters; the value goes into its ``field``.
    """

    label: str
    value: str
    field: str
    opens: WorkingsOf


@dataclass(frozen=True, slots=True, kw_only=True)
class Workings:
    """How a figure arose.

    Attributes:
        title: the figure and its value.
        formula: lines, from the definition to the value, with numbers put in.
        columns: the terms it is summed from.
        marked: the row the figure is read from, if one.
        note: where the definition comes from, and what to mind.
        typed: what can be typed to have them at another value.
        more: further workings of the same figure, each with its words.
    """

    title: str
    formula: tuple[str, ...]
    columns: tuple[AnyColumn, ...]
    marked: int | None = None
    note: str = ""
    typed: TypedIn | None = None
    more: tuple[tuple[str, WorkingsOf], ...] = ()

    @property
    def size(self) -> int:
        """Number of terms."""
        return int(self.columns[0].values.size) if self.columns else 0

    def sorted(self, by: int, *, descending: bool = False) -> "Workings":
        """The same terms in the order of a column, those where it is not defined last.

        Raises:
            NoWorkingsError: when there is no such column.
        """
        if not 0 <= by < len(self.columns):
            raise NoWorkingsError(f"there is no column {by}")
        values = self.columns[by].values
        rank = np.unique(values, return_inverse=True)[1].astype(np.float64)
        rank = -rank if descending else rank
        if values.dtype.kind == "f":
            rank = np.where(np.isnan(values), np.inf, rank)
        order = np.argsort(rank, kind="stable")
        marked = None
        if self.marked is not None:
            marked = int(np.flatnonzero(order == self.marked)[0])
        columns = tuple(replace(column, values=column.values[order]) for column in self.columns)
        return replace(self, columns=columns, marked=marked)

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
            typed=self.typed,
            more=[Further(label=label, opens=opens) for label, opens in self.more],
        )

    def lines(self) -> Iterator[list[Raw]]:
        """The keys of the columns, then all terms at full precision."""
        yield [c.key for c in self.columns]
        for k in range(self.size):
            yield [c.raw(k) for c in self.columns]


class Further(FrozenModel):
    """Further workings of a figure, and what they are called."""

    label: str
    opens: WorkingsOf


class WorkingsPage(FrozenModel):
    """Workings with a page of their terms: ``total`` in all, these from ``first`` on."""

    title: str
    formula: list[str]
    head: list[str]
    first: int
    total: int
    rows: list[list[Cell]]
    marked: int | None
    note: str
    typed: TypedIn | None
    more: list[Further]


@dataclass(frozen=True, slots=True)
class ExplainedNumber:
    """A figure of a stage that can be worked out.

    Attributes:
        key: its name in addresses and in the cells that open it.
        about: its parameters, a type with a schema.
        work: the workings, from the cohort, the statements that the stage needs, and the parameters.
    """

    key: str
    about: type[BaseModel]
    work: Callable[[Cohort, Mapping[str, StageStatement], Any], Workings]


class Nothing(FrozenModel):
    """Workings without parameters."""


class NoWorkingsError(HourglassError):
    """There is no such figure; the message states which."""


def whole(key: str, label: str, values: np.ndarray, opens: Opens | None = None) -> TermColumn:
    """A column of whole numbers."""
    return TermColumn(key, label, values, whole=True, opens=opens)


def decimal(key: str, label: str, values: np.ndarray, opens: Opens | None = None) -> TermColumn:
    """A column of decimal numbers."""
    return TermColumn(key, label, np.asarray(values, dtype=np.float64), opens=opens)


def digits(value: float | None) -> str:
    """A number in a formula: seven significant digits; blank where it is not defined."""
    if value is None or math.isnan(value):
        return formatting.BLANK
    return f"{value:.7g}".replace("-", formatting.MINUS, 1)


def squared(value: float) -> str:
    """A number in a formula, squared: one below 0 stands in brackets."""
    return f"({digits(value)})²" if value < 0 else f"{digits(value)}²"

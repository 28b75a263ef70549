"""The report's tables: columns as they are read, and as they are exported at full precision."""

import csv
import io
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from typing import Generic, TypeVar

from hourglass.analysis.shared.cell import Cell, Raw, words

T = TypeVar("T")
NOTE = "note"
DANGEROUS = ("=", "+", "-", "@", "\t", "\r")
"""A text cell that starts with one of these would be run as a formula by a spreadsheet."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Column(Generic[T]):
    """A column of a table of items.

    Attributes:
        key: its name in files; blank for a column that is only read.
        head: what stands above it where it is read; None for a column that is only in files.
        value: of a item, at full precision; ``cell``: the same as it is read, the value in words where
            nothing else is given.
    """

    key: str = ""
    head: str | None = None
    value: Callable[[T], Raw]
    cell: Callable[[T], Cell] | None = None

    def of(self, items: Sequence[T]) -> "ReportColumn":
        """The column of some items."""
        read = self.cell or self._in_words
        return ReportColumn(
            key=self.key,
            head=self.head,
            cells=() if self.head is None else tuple(map(read, items)),
            values=tuple(map(self.value, items)) if self.key else (),
        )

    def _in_words(self, item: T) -> Cell:
        value = self.value(item)
        return words("" if value is None else str(value))


@dataclass(frozen=True, slots=True, kw_only=True)
class ReportColumn:
    """A column of a table: ``cells`` under its ``head`` where it is read, ``values`` by its ``key`` in files.

    A column that is only read has no key, one that is only in files has None as its head.
    """

    key: str = ""
    head: str | None = None
    cells: tuple[Cell, ...] = ()
    values: tuple[Raw, ...] = ()

    @property
    def wordy(self) -> bool:
        """Whether it holds words: no number, and most cells begin with a letter."""
        texts = [cell.text for cell in self.cells if cell.text]
        numbers = any(isinstance(cell.raw, int | float) for cell in self.cells)
        return not numbers and 2 * sum(text[0].isalpha() for text in texts) > len(texts)


@dataclass(frozen=True, slots=True, kw_only=True)
class ReportTable:
    """A table of the report.

    Attributes:
        number: its place among all that are printed, 0 where it is alone.
        in_words: whether the text holds all of it, so that it is only saved.
        continued: whether it goes on with the columns of the one before it.
    """

    key: str
    title: str
    columns: tuple[ReportColumn, ...]
    note: str = ""
    number: int = 0
    in_words: bool = False
    continued: bool = False

    @property
    def caption(self) -> str:
        """What stands above it: "Table 3. Groups"."""
        more = " (continued)" if self.continued else ""
        return f"Table {self.number}{more}. {self.title}" if self.number else self.title

    @property
    def head(self) -> tuple[str, ...]:
        """What stands above the columns that are read."""
        return tuple(one.head for one in self.columns if one.head is not None)

    @property
    def rows(self) -> tuple[tuple[Cell, ...], ...]:
        """The rows as they are read."""
        return tuple(zip(*(one.cells for one in self.columns if one.head is not None), strict=True))

    @property
    def wordy(self) -> tuple[bool, ...]:
        """Which of the columns that are read hold words; the first is taken to."""
        read = [one for one in self.columns if one.head is not None]
        return tuple(k == 0 or one.wordy for k, one in enumerate(read))

    @property
    def keys(self) -> tuple[str, ...]:
        """The names of the columns in files."""
        return tuple(one.key for one in self.columns if one.key)

    @property
    def values(self) -> tuple[tuple[Raw, ...], ...]:
        """The rows in files."""
        return tuple(zip(*(one.values for one in self.columns if one.key), strict=True))


def table_of(
    key: str, title: str, items: Iterable[T], columns: Iterable[Column[T]], note: str = ""
) -> ReportTable:
    """A table with a row for each item."""
    rows = tuple(items)
    made = tuple(column.of(rows) for column in columns)
    return ReportTable(key=key, title=title, columns=made, note=note)


def notes_beside(items: Sequence[T], note: Callable[[T], str]) -> list[Column[T]]:
    """A column of notes in files, where any item has one."""
    return [Column(key=NOTE, value=lambda one: note(one) or None)] if any(map(note, items)) else []


def to_csv(table: ReportTable) -> str:
    """The table as comma-separated text at full precision, harmless to a spreadsheet."""
    return csv_of([list(table.keys), *map(list, table.values)])


def csv_of(lines: list[list[Raw]], between: str = ",") -> str:
    """Lines as text set apart by commas, or by tabs for the clipboard, harmless to a spreadsheet."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n", delimiter=between)
    for line in lines:
        writer.writerow(["" if value is None else harmless(value) for value in line])
    return out.getvalue()


def harmless(value: Raw) -> Raw:
    """Text that a spreadsheet would run as a formula gets an apostrophe in front."""
    if isinstance(value, str) and value.startswith(DANGEROUS):
        return "'" + value
    return value

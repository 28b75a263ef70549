"""The report's tables: what is shown, and what is exported at full precision."""

import csv
import io
from dataclasses import dataclass

from hourglass.analysis.shared.cell import Cell, Raw

DANGEROUS = ("=", "+", "-", "@", "\t", "\r")
"""A text cell that starts with one of these would be run as a formula by a spreadsheet."""


@dataclass(frozen=True, slots=True)
class ReportRow:
    """A row as it is read, and the values behind it, of which there may be more."""

    cells: tuple[Cell, ...]
    raw: tuple[Raw, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class ReportTable:
    """A table of the report: ``head`` for reading, ``keys`` for the columns of the CSV."""

    key: str
    title: str
    head: tuple[str, ...]
    keys: tuple[str, ...]
    rows: tuple[ReportRow, ...]
    note: str = ""

    @property
    def wordy(self) -> tuple[bool, ...]:
        """Which columns hold words: the first, and those without a number in which most cells begin with
        a letter.
        """
        return tuple(
            k == 0 or _wordy([row.cells[k] for row in self.rows]) for k in range(len(self.head))
        )


def _wordy(cells: list[Cell]) -> bool:
    said = [cell.text for cell in cells if cell.text]
    numbers = any(isinstance(cell.raw, int | float) for cell in cells)
    return not numbers and 2 * sum(text[0].isalpha() for text in said) > len(said)


def to_csv(table: ReportTable) -> str:
    """The table as comma-separated text at full precision, harmless to a spreadsheet."""
    return csv_of([list(table.keys), *(list(row.raw) for row in table.rows)])


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

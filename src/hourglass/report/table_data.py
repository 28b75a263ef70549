"""A table as data: numbers in columns of one unit each, limits beside their estimates, reasons in a note."""

from collections.abc import Sequence
from dataclasses import dataclass

from hourglass.analysis.shared.cell import Cell, Raw

NOTE = "note"


@dataclass(frozen=True, slots=True)
class TableData:
    """The names of the columns, and the values of each row."""

    keys: tuple[str, ...]
    rows: tuple[tuple[Raw, ...], ...]


def table_data(keys: Sequence[str], rows: Sequence[Sequence[Cell]]) -> TableData:
    """The values behind a table of cells.

    Of a column of numbers each cell that holds words is empty, and its words are in the note; an estimate
    has its limits in two columns more; a column that repeats the limits of the one before it is left out.
    """
    filled = [[*row, *[Cell(text="")] * (len(keys) - len(row))] for row in rows]
    columns = [[row[k] for row in filled] for k in range(len(keys))]
    made: list[tuple[str, list[Raw]]] = []
    notes: list[list[str]] = [[] for _ in filled]
    for key, cells in zip(keys, columns, strict=True):
        if any(cell.repeats for cell in cells):
            continue
        numeric = any(_is_number(cell.raw) or cell.limits for cell in cells)
        made.append(
            (key, [cell.raw if _is_number(cell.raw) or not numeric else None for cell in cells])
        )
        if any(cell.limits for cell in cells):
            made.append((f"{key}_lower", [c.limits.lower if c.limits else None for c in cells]))
            made.append((f"{key}_upper", [c.limits.upper if c.limits else None for c in cells]))
        for cell, note in zip(cells, notes, strict=True):
            said = cell.note or (str(cell.raw) if numeric and isinstance(cell.raw, str) else "")
            if said:
                note.append(f"{key}: {said}" if numeric and not cell.wordy else said)
    if any(notes):
        made.append((NOTE, ["; ".join(note) or None for note in notes]))
    values = tuple(tuple(column[k] for _, column in made) for k in range(len(filled)))
    return TableData(tuple(key for key, _ in made), values)


def with_notes(keys: Sequence[str], rows: Sequence[tuple[tuple[Raw, ...], str]]) -> TableData:
    """Rows of values, each with a note, which has a column where any row has one."""
    if not any(note for _, note in rows):
        return TableData(tuple(keys), tuple(values for values, _ in rows))
    return TableData((*keys, NOTE), tuple((*values, note or None) for values, note in rows))


def _is_number(raw: Raw) -> bool:
    return isinstance(raw, int | float)

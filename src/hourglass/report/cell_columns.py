"""The columns of a table of cells: numbers in columns of one unit each, limits beside their estimates,
reasons in a note."""

from collections.abc import Sequence

from hourglass.analysis.shared.cell import Cell, Raw
from hourglass.report.tables import NOTE, ReportColumn


def cell_columns(
    head: Sequence[str], keys: Sequence[str], rows: Sequence[Sequence[Cell]]
) -> tuple[ReportColumn, ...]:
    """The columns of a table of cells; a row may end before its table does.

    Of a column of numbers each cell that holds words is empty in files, and its words are in the note; an
    estimate has its limits in two columns more; a column that repeats the limits of the one before it is
    only read.
    """
    filled = [[*row, *[Cell(text="")] * (len(keys) - len(row))] for row in rows]
    notes: list[list[str]] = [[] for _ in filled]
    found = []
    for k, (heading, key) in enumerate(zip(head, keys, strict=True)):
        found += _columns(heading, key, tuple(row[k] for row in filled), notes)
    if any(notes):
        values = tuple("; ".join(note) or None for note in notes)
        found.append(ReportColumn(key=NOTE, values=values))
    return tuple(found)


def _columns(
    head: str, key: str, cells: tuple[Cell, ...], notes: list[list[str]]
) -> list[ReportColumn]:
    """A column as it is read, and as files have it; what has no place in these is added to the notes."""
    read = tuple(map(_shown, cells))
    if any(cell.repeats for cell in cells):
        return [ReportColumn(head=head, cells=read)]
    numeric = any(_is_number(cell.raw) or cell.limits for cell in cells)
    values = tuple(cell.raw if _is_number(cell.raw) or not numeric else None for cell in cells)
    found = [ReportColumn(key=key, head=head, cells=read, values=values)]
    if any(cell.limits for cell in cells):
        lower = tuple(c.limits.lower if c.limits else None for c in cells)
        upper = tuple(c.limits.upper if c.limits else None for c in cells)
        found.append(ReportColumn(key=f"{key}_lower", values=lower))
        found.append(ReportColumn(key=f"{key}_upper", values=upper))
    for cell, note in zip(cells, notes, strict=True):
        why = cell.note or (str(cell.raw) if numeric and isinstance(cell.raw, str) else "")
        if why:
            note.append(f"{key}: {why}" if numeric and not cell.wordy else why)
    return found


def _shown(cell: Cell) -> Cell:
    """What stands under a cell follows it in brackets."""
    if not cell.below:
        return cell
    return cell.model_copy(update={"text": f"{cell.text} ({cell.below})", "below": ""})


def _is_number(raw: Raw) -> bool:
    return isinstance(raw, int | float)

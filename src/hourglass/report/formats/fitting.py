"""Tables that fit a page: a table that is too wide is split into parts that repeat its first columns."""

import re
from collections.abc import Sequence
from dataclasses import replace

from hourglass.report.tables import ReportColumn, ReportTable

LETTER = 1.5
"""Millimetres of a letter on average, in the size and the font of tables on paper."""
BETWEEN = 2.5
"""Letters that the space between two columns takes."""
BOLD, SHAPE = 1.15, 3.0
"""How much wider letters in bold are; letters that the shape of a verdict takes."""
WIDEST_WORD = 26
"""Letters after which a word may be broken: one that is longer would have a column to itself."""
WIDEST = 34
"""Letters of a column that is as wide as it would like to be."""
ZERO_WIDTH_SPACE = "\u200b"
_LONG = re.compile(rf"\S{{{WIDEST_WORD + 1},}}")


def fitted(
    table: ReportTable, millimetres: float, letter: float = LETTER
) -> tuple[ReportTable, ...]:
    """The parts of a table that fit a width, each with its first columns; itself where it fits.

    Args:
        millimetres: the width; ``letter``: that of a letter on average.

    The note stands under the last part. Words are broken only where one is longer than ``WIDEST_WORD``.
    """
    columns = [one for one in table.columns if one.head is not None]
    room = millimetres / letter
    if not columns or _needed(columns) <= room:
        return (replace(table, columns=tuple(map(_breakable, columns))),)
    fixed = _first_columns(table)
    repeated, others = columns[:fixed], columns[fixed:]
    parts = _packed(others, room - _needed(repeated))
    return tuple(
        replace(
            table,
            columns=tuple(map(_breakable, [*repeated, *part])),
            note=table.note if k == len(parts) - 1 else "",
            continued=k > 0,
        )
        for k, part in enumerate(parts)
    )


def widths(table: ReportTable, millimetres: float, letter: float = LETTER) -> list[float]:
    """Millimetres of the columns of a part that fits, by what they hold."""
    columns = [one for one in table.columns if one.head is not None]
    least = [_least(one) + BETWEEN for one in columns]
    liked = [max(_liked(one) + BETWEEN, low) for one, low in zip(columns, least, strict=True)]
    room = millimetres / letter
    spare, wish = room - sum(least), sum(liked) - sum(least)
    share = 1.0 if wish <= spare else max(spare, 0.0) / wish
    return [letter * (low + share * (like - low)) for low, like in zip(least, liked, strict=True)]


def _first_columns(table: ReportTable) -> int:
    """How many columns name the row: the wordy ones before the first that is not."""
    wordy = table.wordy
    first = next((k for k, one in enumerate(wordy) if not one), 1)
    return min(max(first, 1), 2)


def _packed(columns: Sequence[ReportColumn], room: float) -> list[list[ReportColumn]]:
    """The columns in as few parts as there can be, each about as full as the others."""
    total = sum(_least(one) + BETWEEN for one in columns)
    count = max(1, -int(-total // max(room, 1.0)))
    while True:
        parts = _filled(columns, room, total / count)
        if len(parts) <= count or count >= len(columns):
            return parts
        count += 1


def _filled(columns: Sequence[ReportColumn], room: float, even: float) -> list[list[ReportColumn]]:
    parts: list[list[ReportColumn]] = [[]]
    used = 0.0
    for one in columns:
        wide = _least(one) + BETWEEN
        full = used + wide > room or used + wide / 2 > even
        if parts[-1] and full:
            parts.append([])
            used = 0.0
        parts[-1].append(one)
        used += wide
    return parts


def _needed(columns: Sequence[ReportColumn]) -> float:
    return sum(_least(one) + BETWEEN for one in columns)


def _least(column: ReportColumn) -> float:
    """Letters of its longest word that is not broken; an estimate with its limits stays in two lines."""
    shapes = SHAPE * any(cell.verdict is not None for cell in column.cells)
    words = max((len(word) for cell in column.cells for word in cell.text.split()), default=1)
    bold = BOLD * max((len(word) for word in (column.head or "").split()), default=1)
    lines = max((len(cell.text) / 2 for cell in column.cells), default=0.0)
    return max(min(max(words, bold), WIDEST_WORD), min(lines, WIDEST / 2)) + shapes


def _liked(column: ReportColumn) -> float:
    shapes = SHAPE * any(cell.verdict is not None for cell in column.cells)
    longest = max((len(cell.text) for cell in column.cells), default=1) + shapes
    return min(max(longest, BOLD * len(column.head or "") / 2), WIDEST)


def _breakable(column: ReportColumn) -> ReportColumn:
    """The column with its very long words to be broken."""
    cells = tuple(
        cell.model_copy(update={"text": breakable(cell.text)}) if _LONG.search(cell.text) else cell
        for cell in column.cells
    )
    return replace(column, head=breakable(column.head or ""), cells=cells)


def breakable(text: str) -> str:
    """Text in which a very long word may be broken, where no hyphen or space lets it be."""

    def parts(found: re.Match[str]) -> str:
        word = found.group()
        pieces = [word[k : k + WIDEST_WORD] for k in range(0, len(word), WIDEST_WORD)]
        return ZERO_WIDTH_SPACE.join(pieces)

    return _LONG.sub(parts, text)

"""Rows that have more or fewer cells than the header: filled up, and reported."""

import csv
from collections.abc import Sequence
from typing import Any

import numpy as np
import pyarrow as pa

from hourglass.cohort.reading.mended import Mended
from hourglass.cohort.reading.recipe import Recipe, UnreadableFileError
from hourglass.cohort.words import grouped

MAX_MORE = 30
MAX_KEPT = 5_000


def with_odd_rows(
    arrow: Any, odd: Sequence[Any], recipe: Recipe, width: int
) -> tuple[Any, list[Mended]]:
    """The table with the rows that the parser passed over back in their places.

    Args:
        arrow: all other rows, the header among them.
        odd: the rows passed over, as the parser reports them, numbered from 1.
        width: how many columns the header names.

    Raises:
        UnreadableFileError: when a row has so many cells that the marks must be wrong.
    """
    found = [(int(row.number), _cells(row.text, recipe)) for row in odd]
    widest = max(len(cells) for _, cells in found)
    if widest > width + MAX_MORE:
        number, cells = max(found, key=lambda one: len(one[1]))
        raise UnreadableFileError(
            f"Row {number - recipe.lines_of_names} has {len(cells)} cells where the header has "
            f"{width}. It reads: {odd[0].text[:60]} — mend the file (a missing quotation mark or "
            "delimiter?) and upload again."
        )
    full = max(width, *(_filled(cells) for _, cells in found))
    mended = pa.table(
        [
            pa.array([cells[k] if k < len(cells) else "" for _, cells in found], pa.string())
            for k in range(full)
        ],
        names=[f"f{k}" for k in range(full)],
    )
    blank = pa.array([""] * arrow.num_rows, pa.string())
    wide = pa.table(
        [arrow.column(k) if k < arrow.num_columns else blank for k in range(full)],
        names=mended.column_names,
    )
    total = wide.num_rows + len(found)
    places = np.minimum(np.array([number for number, _ in found]) - 1, total - 1)
    order = np.empty(total, dtype=np.int64)
    others = np.ones(total, dtype=bool)
    others[places] = False
    order[places] = wide.num_rows + np.arange(len(found))
    order[others] = np.arange(wide.num_rows)
    first = recipe.lines_of_names
    # A delimiter after the last cell is no cell of its own.
    counts = [
        len(cells) if len(cells) < width else max(_filled(cells), width) for _, cells in found
    ]
    ends = [k for k, n in enumerate(counts) if n != width]
    rows = [found[k][0] - first for k in ends]
    noted = [ragged(rows, [counts[k] for k in ends], width)] if ends else []
    return pa.concat_tables([wide, mended]).take(order), noted


def ragged(rows: Sequence[int], cells: Sequence[int], width: int) -> Mended:
    """The note about rows with other numbers of cells than the header."""
    short = sum(n < width for n in cells)
    long = len(rows) - short
    parts = []
    if short:
        parts.append(f"{_rows(short)} fewer cells than the header’s {width}, and were filled up")
    if long:
        parts.append(f"{_rows(long)} more; cells past the header have columns of their own")
    return Mended(
        "ragged",
        "; ".join(parts),
        "A missing delimiter or quotation mark moves all cells after it by one column: look at these "
        "rows. " + f"The first is row {rows[0]}, with {cells[0]} cells.",
        rows=tuple(rows[:MAX_KEPT]),
    )


def _rows(n: int) -> str:
    return "1 row has" if n == 1 else f"{grouped(n)} rows have"


def _filled(cells: Sequence[str]) -> int:
    """The number of cells up to the last that holds anything."""
    return max((k + 1 for k, cell in enumerate(cells) if cell.strip()), default=0)


def _cells(text: str, recipe: Recipe) -> list[str]:
    quote = recipe.quote or None
    read = csv.reader(
        [text],
        delimiter=recipe.delimiter,
        quotechar=quote,
        quoting=csv.QUOTE_MINIMAL if quote else csv.QUOTE_NONE,
    )
    return next(read, [])

"""Numbers that a decimal comma may have parted in two, where a comma sets cells apart as well."""

from collections.abc import Sequence
from typing import Any

import pyarrow as pa
import pyarrow.compute as pc

from hourglass.cohort.reading.mended import Mended
from hourglass.cohort.words import listed

PARTED = "parted numbers"
WHOLE = r"^\s*[+-]?\d+\s*$"
DECIMALS = r"^\s*\d{1,3}\s*$"
ROW_NAME = "row name"
"""What the first column is called where the header has no name for it."""
MIN_VALUES = 5
MAX_OFFERED = 3


def parted_numbers(body: Any, names: Sequence[str]) -> Mended | None:
    """The note about rows that hold one cell more than there are names; None where no two cells of theirs
    could be one number.

    Args:
        body: the rows as an Arrow table of text, one column more than ``names``.
    """
    last = body.column(body.num_columns - 1)
    longer = pc.greater(pc.utf8_length(pc.utf8_trim_whitespace(last)), 0)
    long = body.filter(pc.fill_null(longer, False))
    if long.num_rows < MIN_VALUES:
        return None
    rated = []
    for k in range(body.num_columns - 1):
        whole, decimals = long.column(k), long.column(k + 1)
        if _all_match(whole, WHOLE) and _all_match(decimals, DECIMALS):
            values = pc.count_distinct(whole).as_py()
            if values >= MIN_VALUES and pc.count_distinct(decimals).as_py() > 1:
                rated.append((-values, names[k], f"{whole[0].as_py()},{decimals[0].as_py()}"))
    if not rated:
        return None
    rated.sort(key=lambda one: one[0])
    offered = rated[:MAX_OFFERED]
    shown = listed([f"{name} {number}" for _, name, number in offered])
    return Mended(
        PARTED,
        "Rows hold one cell more than there are names: a decimal comma may part a number in two",
        f"Commas set cells apart here, and may be decimal marks as well: the first of these rows would have "
        f"{shown}. Read as two cells, every name after it stands over the wrong column.",
        columns=tuple(name for _, name, _ in offered),
    )


def header_of(columns: Sequence[str]) -> tuple[tuple[str, ...], str]:
    """The names that the header of such a file has, and the column that stands beside them."""
    if columns[0] == ROW_NAME:
        return tuple(columns[1:]), columns[0]
    return tuple(columns[:-1]), columns[-1]


def _all_match(cells: Any, pattern: str) -> bool:
    text = cells.combine_chunks() if isinstance(cells, pa.ChunkedArray) else cells
    return bool(pc.all(pc.match_substring_regex(text, pattern)).as_py())

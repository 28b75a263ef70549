"""Columns of plain numbers typed together: of thousands of columns, one by one takes longer than the rest."""

import re
from collections.abc import Sequence
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from hourglass.cohort.reading.recipe import Recipe
from hourglass.cohort.table import NumberColumn

COLUMNS_TYPED_TOGETHER = 100
"""With fewer columns each is typed by itself."""
MAX_CELLS = 4_000_000
"""So many cells are looked at together."""
PLAIN = r"^(-?(0|[1-9]\d{0,14})(\.\d{1,10})?)?$"
"""Numbers that are shown as they are written, and nothing; what else may be a number is typed by itself."""


def plain_numbers(
    names: Sequence[str], columns: Sequence[Any], recipe: Recipe
) -> dict[int, NumberColumn]:
    """The columns of text all of whose cells are plain numbers or blank, by place.

    Args:
        names: of the columns; ``columns``: Arrow arrays of equal length.
    """
    if len(columns) < COLUMNS_TYPED_TOGETHER or recipe.decimal != "." or recipe.points != "decimal":
        return {}
    if any(re.match(PLAIN, word.strip()) for word in recipe.missing):
        return {}
    texts = [k for k, column in enumerate(columns) if pa.types.is_string(column.type)]
    size = len(columns[0])
    together = max(MAX_CELLS // max(size, 1), 1)
    found: dict[int, NumberColumn] = {}
    for at in range(0, len(texts), together):
        found |= _typed(names, columns, texts[at : at + together], size)
    return found


def _typed(
    names: Sequence[str], columns: Sequence[Any], places: list[int], size: int
) -> dict[int, NumberColumn]:
    chunks = [chunk for k in places for chunk in _chunks(columns[k])]
    cells = pa.concat_arrays(chunks).fill_null("")
    fits = pc.match_substring_regex(cells, PLAIN).to_numpy(zero_copy_only=False)
    whole = fits.reshape(len(places), size).all(axis=1)
    if not whole.any():
        return {}
    cells = cells.filter(pa.array(np.repeat(whole, size)))
    blank = pc.equal(cells, "")
    values = pc.cast(pc.if_else(blank, pa.scalar(None, pa.string()), cells), pa.float64())
    numbers = values.fill_null(np.nan).to_numpy(zero_copy_only=False).reshape(-1, size)
    point = pc.find_substring(cells, ".")
    after = pc.if_else(
        pc.less(point, 0), 0, pc.subtract(pc.subtract(pc.utf8_length(cells), point), 1)
    )
    decimals = after.to_numpy(zero_copy_only=False).reshape(-1, size).max(axis=1)
    there = [k for k, all_fit in zip(places, whole, strict=True) if all_fit]
    return {
        k: NumberColumn(name=names[k], values=numbers[row].copy(), decimals=int(decimals[row]))
        for row, k in enumerate(there)
        if not np.isnan(numbers[row]).all()
    }


def _chunks(column: Any) -> list[Any]:
    return list(column.chunks) if isinstance(column, pa.ChunkedArray) else [column]

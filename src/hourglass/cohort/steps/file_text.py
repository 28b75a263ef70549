"""The text in the file of the cells of a column, so that it can be read again as something else."""

from dataclasses import replace

import numpy as np

from hourglass.cohort.table import Column, TextColumn


def file_text(column: Column) -> TextColumn:
    """The column as text: its cells as the file wrote them; as they are shown where that is not kept."""
    if isinstance(column, TextColumn):
        return column
    distinct, place = np.unique(column.values, return_inverse=True)
    first = np.full(distinct.size, -1)
    first[place[::-1]] = np.arange(place.size)[::-1]
    texts = [column.cell(int(k)) for k in first]
    codes = place.astype(np.int64)
    written = column.as_written
    if written is not None:
        codes = np.where(written.codes >= 0, distinct.size + written.codes, codes)
        texts += written.texts.to_pylist()
    held, codes = np.unique(codes, return_inverse=True)
    levels = sorted({texts[k].strip() for k in held} - {""})
    order = {level: k for k, level in enumerate(levels)}
    of_held = np.array([order.get(texts[k].strip(), -1) for k in held], dtype=np.int32)
    made = TextColumn(
        name=column.name,
        codes=of_held[codes],
        levels=tuple(levels),
        label=column.label,
        unit=column.unit,
    )
    gone = column.missing & (made.codes >= 0)  # a word for missing is not a level
    if written is not None and gone.any():
        return replace(
            made, codes=np.where(gone, -1, made.codes).astype(np.int32), as_written=written
        )
    return made

"""Reading Parquet: columns packed apart, texts that repeat kept once."""

import io
from typing import Any

import pyarrow as pa
from pyarrow import parquet

from hourglass.cohort.parquet import from_parquet
from hourglass.cohort.profile import profile_of
from hourglass.cohort.reading.mended import lists_left_out, mended_names
from hourglass.cohort.reading.recipe import Cells, Limits, UnreadableFileError
from hourglass.cohort.table import Table
from hourglass.cohort.words import grouped

USUAL = Limits()
CELL = 8
"""Bytes that a number takes once it is decoded."""
MAX_SWOLLEN, FEW_CELLS = 1_000, 8_000_000
"""Times its size that a file may decode to, where it has more cells than that."""
TEXTS = ("string", "large_string", "binary", "large_binary")


def read_cells(data: bytes, limits: Limits) -> Cells:
    """The names and the columns of cells, as Arrow arrays of their own types.

    Raises:
        UnreadableFileError: when it is broken, only lists and records, or larger than allowed.
    """
    try:
        file = parquet.ParquetFile(io.BytesIO(data))
        _refuse_large(file.metadata, limits)
        _refuse_swollen(file.metadata, len(data))
        schema = file.schema_arrow
        nested = [f.name for f in schema if pa.types.is_nested(f.type)]
        flat = [f.name for f in schema if f.name not in nested]
        if not flat:
            raise UnreadableFileError(
                f"All columns hold lists or records, such as {nested[0][:60]}. Give each value a column of "
                "its own."
            )
        # Unpacked, a text of 30 kB in a million rows would be 30 GB; as codes it stays what it is.
        texts = [f.name for f in schema if _holds_text(f.type)]
        table = parquet.ParquetFile(io.BytesIO(data), read_dictionary=texts).read(flat)
        if table.num_rows == 0 or table.num_columns == 0:
            raise UnreadableFileError("The file has no rows. Choose a file with at least one row.")
        columns = [_coded(column) for column in table.columns]
    except (pa.ArrowException, OSError) as error:
        raise UnreadableFileError(
            f"The Parquet file cannot be read ({str(error).splitlines()[0][:120]})."
        ) from None
    names, mended = mended_names(table.column_names, limits)
    return Cells(names, columns, [*lists_left_out(nested), *mended])


def checked_parquet(data: bytes, limits: Limits = USUAL) -> Table:
    """A table that this program wrote, its size looked at before anything is decoded.

    Raises:
        UnreadableFileError: when it is no such table, or larger than the limits.
    """
    try:
        _refuse_large(parquet.ParquetFile(io.BytesIO(data)).metadata, limits)
        found = from_parquet(data)
        for column in found.columns:
            profile_of(column)
    except (pa.ArrowException, OSError, ValueError, LookupError, TypeError, AttributeError) as why:
        if isinstance(why, UnreadableFileError):
            raise
        raise UnreadableFileError("It is no table that this program wrote.") from None
    return found


def _holds_text(kind: Any) -> bool:
    held = kind.value_type if pa.types.is_dictionary(kind) else kind
    return str(held) in TEXTS


def _coded(column: Any) -> Any:
    """A column of codes as one array whose texts are strings; any other column as it is."""
    if not pa.types.is_dictionary(column.type):
        return column
    whole = column.combine_chunks()
    return pa.DictionaryArray.from_arrays(whole.indices, whole.dictionary.cast(pa.string()))


def _refuse_large(about: Any, limits: Limits) -> None:
    rows, width = about.num_rows, about.num_columns
    if rows * width > limits.most_cells or width > limits.most_columns:
        raise UnreadableFileError(
            f"The file has {grouped(rows)} rows of {grouped(width)} columns; at most "
            f"{grouped(limits.most_cells)} "
            f"cells in {grouped(limits.most_columns)} columns can be read."
        )
    unpacked = sum(about.row_group(g).total_byte_size for g in range(about.num_row_groups))
    if unpacked > limits.most_unpacked:
        raise UnreadableFileError(
            f"The file unpacks to {grouped(round(unpacked / 2**20))} MB; at most "
            f"{grouped(round(limits.most_unpacked / 2**20))} MB can be read."
        )


def _refuse_swollen(about: Any, size: int) -> None:
    rows, width = about.num_rows, about.num_columns
    if rows * width * CELL > max(MAX_SWOLLEN * size, FEW_CELLS * CELL):
        raise UnreadableFileError(
            f"The file has {grouped(size)} bytes and holds {grouped(rows)} rows of {grouped(width)} columns, "
            f"more than {grouped(MAX_SWOLLEN)} times its size: hardly anything in them differs. It was not "
            "opened. Leave out columns that hold one value only, and upload again."
        )

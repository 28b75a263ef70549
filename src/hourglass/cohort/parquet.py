"""A table as Parquet and back, so that a million rows load in about a second."""

import io
from dataclasses import replace

import numpy as np
import pyarrow as pa
from numpy.typing import NDArray
from pyarrow import parquet

from hourglass.cohort.reading.mended import from_text, to_text
from hourglass.cohort.table import AsWritten, Column, DateColumn, NumberColumn, Table, TextColumn

DECIMALS = b"hourglass.decimals"
UNIT = b"hourglass.unit"
LABEL = b"hourglass.label"
MENDED = b"hourglass.mended"
AS_WRITTEN = b"hourglass.as_written"
"""Marks a column of the texts that the column of this name was read from."""
ALL_DIFFER = b"hourglass.all_differ"
"""Marks texts of which each row has its own, as identifiers: a dictionary of them takes ten times as long."""


def to_parquet(table: Table) -> bytes:
    """Write a table, row numbers left out: they are those of the file."""
    arrays, fields = [], []
    written = []
    for column in table.columns:
        array = _array(column)
        kept = {
            mark: words for mark, words in ((UNIT, column.unit), (LABEL, column.label)) if words
        }
        if isinstance(column, NumberColumn):
            kept[DECIMALS] = str(column.decimals)
        if pa.types.is_string(array.type):
            kept[ALL_DIFFER] = "yes"
        arrays.append(array)
        fields.append(pa.field(column.name, array.type, metadata=kept))
        if column.as_written is not None:
            written.append((column.name, _coded(column.as_written.codes, column.as_written.texts)))
    for k, (name, array) in enumerate(written):
        arrays.append(array)
        fields.append(pa.field(f"\x00{k}", array.type, metadata={AS_WRITTEN: name}))
    out = io.BytesIO()
    schema = pa.schema(fields, metadata={MENDED: to_text(table.mended)})
    coded = [field.name for field in fields if pa.types.is_dictionary(field.type)]
    table = pa.Table.from_arrays(arrays, schema=schema)
    # Of numbers a dictionary costs more time than it saves room; texts must keep the order of theirs.
    parquet.write_table(
        table, out, compression="zstd", use_dictionary=coded, write_statistics=False
    )
    return out.getvalue()


def from_parquet(data: bytes) -> Table:
    """Read a table written by :func:`to_parquet`."""
    arrow = parquet.read_table(io.BytesIO(data))
    columns: list[Column] = []
    written: dict[str, AsWritten] = {}
    for k, field in enumerate(arrow.schema):
        array = arrow.column(k).combine_chunks()
        about = (field.metadata or {}).get(AS_WRITTEN)
        if about is None:
            stated = {
                to: (field.metadata or {}).get(mark, b"").decode()
                for to, mark in (("unit", UNIT), ("label", LABEL))
            }
            columns.append(replace(_column(field, array), **stated))
        else:
            written[about.decode()] = AsWritten(_codes(array), array.dictionary)
    return Table(
        tuple(
            replace(column, as_written=written[column.name]) if column.name in written else column
            for column in columns
        ),
        np.arange(1, arrow.num_rows + 1),
        from_text((arrow.schema.metadata or {}).get(MENDED, b"[]").decode()),
    )


def _array(column: Column) -> pa.Array:
    if isinstance(column, NumberColumn):
        return pa.array(column.values, mask=column.missing)
    if isinstance(column, DateColumn):
        if column.values.dtype == np.dtype("datetime64[D]"):
            return pa.array(column.values, type=pa.date32())
        unit = np.datetime_data(column.values.dtype)[0]
        return pa.array(column.values, type=pa.timestamp("us" if unit == "us" else "s"))
    texts = pa.array(column.levels, type=pa.string())
    return texts if _all_differ(column) else _coded(column.codes, texts)


def _all_differ(column: TextColumn) -> bool:
    """Whether the rows hold the levels one after the other, each once."""
    return 0 < len(column.levels) == column.codes.size and np.array_equal(
        column.codes, np.arange(column.codes.size)
    )


def _coded(codes: NDArray[np.int32], texts: pa.Array) -> pa.Array:
    return pa.DictionaryArray.from_arrays(pa.array(codes, mask=codes < 0), texts)


def _codes(array: pa.Array) -> NDArray[np.int32]:
    found = array.indices.fill_null(-1).to_numpy(zero_copy_only=False)
    return np.asarray(found.astype(np.int32))


def _column(field: pa.Field, array: pa.Array) -> Column:
    if pa.types.is_dictionary(field.type):
        return TextColumn(
            name=field.name, codes=_codes(array), levels=tuple(array.dictionary.to_pylist())
        )
    if ALL_DIFFER in (field.metadata or {}):
        return TextColumn(
            name=field.name,
            codes=np.arange(len(array), dtype=np.int32),
            levels=tuple(array.to_pylist()),
        )
    if pa.types.is_date(field.type):
        return DateColumn(
            name=field.name, values=array.to_numpy(zero_copy_only=False).astype("datetime64[D]")
        )
    if pa.types.is_timestamp(field.type):
        unit = "us" if field.type.unit == "us" else "s"  # Parquet keeps seconds as milliseconds
        return DateColumn(
            name=field.name,
            values=array.to_numpy(zero_copy_only=False).astype(f"datetime64[{unit}]"),
        )
    decimals = int((field.metadata or {}).get(DECIMALS, b"0"))
    values = array.to_numpy(zero_copy_only=False).astype(np.float64)
    return NumberColumn(name=field.name, values=values, decimals=decimals)

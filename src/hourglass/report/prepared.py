"""The prepared table with its codebook, for other programs."""

import csv
import io
from collections.abc import Sequence
from dataclasses import replace

import numpy as np
import pyarrow as pa
from pyarrow import csv as arrow_csv
from pyarrow import parquet

from hourglass.cohort.followup import Cohort
from hourglass.cohort.steps.apply import Step, apply_steps
from hourglass.cohort.table import Column, DateColumn, NumberColumn, Table, TextColumn
from hourglass.report.tables import DANGEROUS

MARKED = (*DANGEROUS, "'")
"""Beginnings that get an apostrophe in front: its own too, so that taking one off gives all back."""
TIME, ENTRY, END, TIMES = "time followed", "time of entry", "how it ended", "stands for"


def prepared_table(cohort: Cohort, more: Sequence[Column] = ()) -> Table:
    """The cohort's table, with each row's time, entry, end and count as it is analysed, and more."""
    data, table = cohort.follow_up, cohort.table
    unit = cohort.statement.unit
    ends = ("censored", cohort.statement.event_name, *cohort.competing)
    levels = tuple(dict.fromkeys(ends))
    place = np.array([levels.index(end) for end in ends], dtype=np.int32)
    made: list[Column] = [
        NumberColumn(name=_free(table, TIME), values=data.exit, decimals=10, unit=unit)
    ]
    if data.entry is not None:
        entry = np.where(np.isfinite(data.entry), data.entry, np.nan)
        made.append(NumberColumn(name=_free(table, ENTRY), values=entry, decimals=10, unit=unit))
    made.append(TextColumn(name=_free(table, END), codes=place[data.status], levels=levels))
    if cohort.statement.count is not None:
        made.append(NumberColumn(name=_free(table, TIMES), values=data.count.astype(np.float64)))
    made += [replace(column, name=_free(table, column.name)) for column in more]
    return Table((*table.columns, *made), table.numbers)


def _free(table: Table, name: str) -> str:
    while table.has(name):
        name += " (analysed)"
    return name


def prepared_csv(cohort: Cohort, harmless: bool, more: Sequence[Column] = ()) -> bytes:
    """Comma-separated text in UTF-8.

    With ``harmless``, every text cell that a spreadsheet might run as a formula, and every one
    that begins with an apostrophe, gets an apostrophe in front: taking one off gives the cell back.
    """
    table = prepared_table(cohort, more)
    arrays, names = [], []
    for column in table.columns:
        names.append(_harmless(column.name) if harmless else column.name)
        arrays.append(_cells(column, harmless))
    out = io.BytesIO()
    options = arrow_csv.WriteOptions(quoting_style="needed", include_header=False)
    head = io.StringIO()
    csv.writer(head, lineterminator="\n").writerow(names)
    out.write(head.getvalue().encode())
    made = pa.Table.from_arrays(arrays, names=[f"c{k}" for k in range(len(names))])
    arrow_csv.write_csv(made, out, options)
    return out.getvalue()


def _harmless(text: str) -> str:
    return f"'{text}" if text.startswith(MARKED) else text


def _cells(column: Column, harmless: bool) -> pa.Array:
    if isinstance(column, NumberColumn):
        whole = (
            column.decimals == 0 and np.abs(column.values[~column.missing]).max(initial=0) < 2**53
        )
        array = pa.array(column.values, mask=column.missing)
        return array.cast(pa.int64()) if whole else array
    if isinstance(column, DateColumn):
        return pa.array(["" if gone else column.cell(k) for k, gone in enumerate(column.missing)])
    levels = [_harmless(v) if harmless else v for v in column.levels]
    codes = pa.array(column.codes, mask=column.missing)
    return pa.DictionaryArray.from_arrays(codes, pa.array(levels, pa.string())).cast(pa.string())


def prepared_parquet(cohort: Cohort, more: Sequence[Column] = ()) -> bytes:
    """The same table, typed, with label, unit and order of levels in each field's metadata."""
    arrays, fields = [], []
    for column in prepared_table(cohort, more).columns:
        if isinstance(column, NumberColumn):
            array = pa.array(column.values, mask=column.missing)
        elif isinstance(column, DateColumn):
            unit = np.datetime_data(column.values.dtype)[0]
            array = pa.array(column.values, pa.date32() if unit == "D" else pa.timestamp("s"))
        else:
            codes = pa.array(column.codes, mask=column.missing)
            array = pa.DictionaryArray.from_arrays(codes, pa.array(column.levels, pa.string()))
        about = {"label": column.label, "unit": column.unit}
        if isinstance(column, TextColumn) and column.reference:
            about["reference"] = column.reference
        fields.append(
            pa.field(column.name, array.type, metadata={k: v for k, v in about.items() if v})
        )
        arrays.append(array)
    out = io.BytesIO()
    parquet.write_table(pa.Table.from_arrays(arrays, schema=pa.schema(fields)), out)
    return out.getvalue()


def codebook_csv(cohort: Cohort, raw: Table, steps: Sequence[Step]) -> bytes:
    """A line for each column: name, label, unit, kind, levels in order, missing, origin."""
    origins = _origins(raw, steps)
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(["name", "label", "unit", "kind", "levels", "reference", "missing", "origin"])
    own = {c.name for c in cohort.table.columns}
    for column in prepared_table(cohort).columns:
        text = isinstance(column, TextColumn)
        levels = " | ".join(column.levels[:200]) if isinstance(column, TextColumn) else ""
        origin = (
            origins.get(column.name, "")
            if column.name in own
            else "made by the follow-up statement"
        )
        line = [
            column.name, column.label, column.unit, column.kind, levels,
            column.reference if isinstance(column, TextColumn) and text else "",
            str(int(column.missing.sum())), origin,
        ]  # fmt: skip
        writer.writerow([_harmless(cell) for cell in line])
    return out.getvalue().encode()


def _origins(raw: Table, steps: Sequence[Step]) -> dict[str, str]:
    """Where each column comes from: the file, and the steps that made or changed it."""
    found = {column.name: ["read from the file"] for column in raw.columns}
    table = raw
    for k, step in enumerate(steps, start=1):
        after, (effect,) = apply_steps(table, [step])
        if not effect.broken and effect.becomes is None and after.size == table.size:
            for column in after.columns:
                if not table.has(column.name):
                    found[column.name] = [f"made by step {k}: {effect.name}"]
                elif table.column(column.name) is not column:
                    found.setdefault(column.name, []).append(f"changed by step {k}: {effect.name}")
        elif not effect.broken and effect.becomes is not None:
            for column in after.columns:
                if not table.has(column.name):
                    found[column.name] = [f"made by step {k}: {effect.name}"]
        table = after
    return {name: "; ".join(text) for name, text in found.items()}

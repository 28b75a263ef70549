"""Findings about how the file was read, and about text that holds something else."""

from collections import Counter
from collections.abc import Iterator

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from hourglass.cohort.findings.finding import (
    CORRECT,
    KEEP,
    Choice,
    Finding,
    FindingContext,
    Rows,
    count,
    set_aside,
)
from hourglass.cohort.not_supported import WHY_INSPECTIONS, WHY_WEIGHTS, inspections, is_weight
from hourglass.cohort.reading.apart import APART
from hourglass.cohort.reading.dates import date_cells, doubt_of, order_of
from hourglass.cohort.reading.mended import Mended
from hourglass.cohort.reading.parted_numbers import PARTED, header_of
from hourglass.cohort.steps.apply import Step
from hourglass.cohort.steps.parted_numbers import JoinPartedNumbers
from hourglass.cohort.steps.text import DATE_IN_TEXT, WAYS, EditText, dates_in
from hourglass.cohort.steps.types import ReadAsDates
from hourglass.cohort.steps.units import TakeUnitApart, parts_of, short_m_in
from hourglass.cohort.table import NumberColumn, Table, TextColumn
from hourglass.cohort.units import IN_DAYS, factor
from hourglass.cohort.words import grouped

MAX_LOOKED_AT = 2_000
MAX_DATES = 10
"""So many dates of a cell become columns."""
SHARE = 0.8
LONG = 200


def reading_findings(context: FindingContext) -> Iterator[Finding]:
    """What was mended in reading, what no method can use, and text that holds units, dates or prose."""
    raw = context.raw
    for mended in () if raw is None else raw.mended:
        if mended.about == APART:
            continue  # see apart_findings
        rows = np.array(mended.rows, dtype=np.int64)
        there = rows[np.isin(rows, context.table.numbers)]
        columns = tuple(c for c in mended.columns if context.table.has(c))
        choices = [KEEP]
        if raw is not None and mended.about == PARTED:
            names, beside = header_of([c.name for c in raw.columns])
            if not context.table.has(beside):
                continue  # a step has joined them
            choices = [*_joinings(names, mended), KEEP]
            columns = tuple(c.name for c in context.columns[:6])
        if mended.about == "ragged" and there.size:
            choices += [set_aside(there, "ragged"), CORRECT]
            columns = columns or tuple(c.name for c in context.columns[:6])
        yield Finding(
            key=f"mended: {mended.about}",
            title=mended.title,
            why=mended.why,
            rows=there,
            columns=columns,
            choices=tuple(choices),
        )
    yield from _unsupported(context)
    for column in context.columns:
        if isinstance(column, TextColumn) and len(column.levels) < 200_000:
            found = list(_units(context, column)) or list(_dates(context, column))
            yield from found
            if not found:
                yield from _long(context, column)


def apart_findings(table: Table, rows: Rows, raw: Table | None) -> Iterator[Finding]:
    """Rows between the rows of a table that are none; ``rows`` are their numbers."""
    for mended in () if raw is None or rows.size == 0 else raw.mended:
        if mended.about == APART:
            columns = tuple(c.name for c in table.columns[:6])
            choices = (set_aside(rows, "no rows of the table"), KEEP)
            yield Finding(
                key="no rows of the table",
                title=mended.title,
                why=mended.why,
                rows=rows,
                columns=columns,
                choices=choices,
            )


def _joinings(names: tuple[str, ...], parted: Mended) -> list[Choice]:
    """The columns whose two cells may be one number, each to be joined; ``names`` are those of the header."""
    return [
        Choice(
            name=f"join {name}",
            label=f"Join the cells of {name}",
            done=f"the cells of {name} joined",
            steps=(JoinPartedNumbers(column=name, names=names),),
        )
        for name in parted.columns
        if name in names
    ]


def _units(context: FindingContext, column: TextColumn) -> Iterator[Finding]:
    """Cells that hold a number and a unit."""
    counts = column.counts()
    levels = list(counts)[:MAX_LOOKED_AT]
    if not levels or not any(ch.isdigit() for ch in levels[0]):
        return
    decimal, apart = max(
        (
            (mark, [parts_of(level, mark, short_m_in(levels, mark)) for level in levels])
            for mark in (".", ",")
        ),
        key=lambda pair: sum(bool(p) for p in pair[1]),
    )
    held = sum(counts[level] for level in levels)
    fits = sum(counts[v] for v, parts in zip(levels, apart, strict=True) if parts)
    units = Counter(
        unit for v, parts in zip(levels, apart, strict=True) for _, unit in parts for _ in (v,)
    )
    if fits < SHARE * held or not units:
        return
    into = _common(units)
    if into is None or len(units) > 6:
        return
    odd = [v for v, parts in zip(levels, apart, strict=True) if not parts]
    strange = np.isin(column.codes, [column.levels.index(v) for v in odd])
    listed = ", ".join(f"{unit} ({grouped(n)})" for unit, n in units.most_common())
    others = [u for u in ("days", "months", "years") if u != into and into in IN_DAYS]
    choices = [
        Choice(
            name=f"in {unit}",
            label=f"Read in {unit}",
            done=f"read in {unit}",
            steps=(TakeUnitApart(column=column.name, unit=unit, decimal=decimal),),
        )
        for unit in (into, *others[:2])
    ]
    lost = f" {count(strange)} hold no such number." if odd else ""
    yield Finding(
        key=f"units in cells: {column.name}",
        title=f"{column.name} holds numbers with their units: {listed}",
        why=f"As text it can only form groups; such as “{levels[0]}”.{lost} A step takes number and unit "
        "apart and brings all to one unit.",
        rows=context.numbers(strange if odd else column.codes >= 0),
        columns=(column.name,),
        choices=(*choices, KEEP),
    )


def _common(units: Counter[str]) -> str | None:
    """A unit that all others convert into: the most frequent one."""
    first = units.most_common(1)[0][0]
    return first if all(factor(unit, first) is not None for unit in units) else None


def _dates(context: FindingContext, column: TextColumn) -> Iterator[Finding]:
    """Text with a date inside it."""
    counts = column.counts()
    levels = list(counts)[:MAX_LOOKED_AT]
    if not any(ch.isdigit() for level in levels for ch in level):
        return
    cells = pc.utf8_trim_whitespace(pa.array(levels, pa.string()))
    inside = pc.match_substring_regex(cells, DATE_IN_TEXT).to_numpy(zero_copy_only=False)
    alone = pc.match_substring_regex(cells, rf"^({DATE_IN_TEXT})([T ]\d.*)?$").to_numpy(
        zero_copy_only=False
    )
    held = sum(counts[v] for v in levels)
    if sum(counts[v] for v, hit in zip(levels, inside, strict=True) if hit) < 0.5 * held:
        return
    several = [len(dates_in(level)) for level in levels]
    if max(several) > 1:
        yield _several_dates(context, column, levels, several)
        return
    if alone.mean() > 0.5:
        return  # dates by themselves have a finding of their own
    step = EditText(column=column.name, how="date", into=f"{column.name}, date")
    yield Finding(
        key=f"dates in text: {column.name}",
        title=f"{column.name} holds dates among other words",
        why=f"Such as “{levels[0][:80]}”. Taken out, the date can be a start or an end.",
        rows=context.numbers(column.codes >= 0),
        columns=(column.name,),
        choices=(
            Choice(
                name="take dates", label="Take the dates out", done="dates taken out", steps=(step,)
            ),
            KEEP,
        ),
    )


def _several_dates(
    context: FindingContext, column: TextColumn, levels: list[str], several: list[int]
) -> Finding:
    """Cells that hold more than one date."""
    name, most = column.name, min(max(several), MAX_DATES)
    more = {level for level, n in zip(levels, several, strict=True) if n > 1}
    hit = np.array([*(level in more for level in column.levels), False])[column.codes]
    shown = next(level for level in levels if level in more)
    first = _taken(column, levels, EditText(column=name, how="date", into=f"{name}, first"))
    last = _taken(column, levels, EditText(column=name, how="last date", into=f"{name}, last"))
    each = [
        step
        for k in range(1, most + 1)
        for step in _taken(
            column, levels, EditText(column=name, how="date", number=k, into=f"{name}, date {k}")
        )
    ]
    return Finding(
        key=f"several dates: {name}",
        title=f"{name} holds several dates in a cell, in {count(hit)}",
        why=f"Such as “{shown[:80]}”. Only those who made the file know which of them a follow-up "
        "starts or ends at.",
        rows=context.numbers(hit),
        columns=(name,),
        choices=(
            Choice(
                name="take first",
                label="Take the first date of each",
                done="the first date taken",
                steps=first,
            ),
            Choice(
                name="take last",
                label="Take the last date of each",
                done="the last date taken",
                steps=last,
            ),
            Choice(
                name="take each",
                label=f"Take up to {most} into columns",
                done="each date taken",
                steps=tuple(each),
            ),
            KEEP,
        ),
    )


def _taken(column: TextColumn, levels: list[str], taken: EditText) -> tuple[Step, ...]:
    """The step that takes dates out of text, and the one that reads them where their order is plain."""
    way = WAYS[taken.how]
    texts = [text for level in levels if (text := way.on(taken, level)) is not None]
    found = date_cells(pa.array(texts, pa.string()))
    if not texts or doubt_of(found) is not None:
        return (taken,)
    return taken, ReadAsDates(column=taken.into, order=order_of(found))


def _long(context: FindingContext, column: TextColumn) -> Iterator[Finding]:
    longest = max((len(level) for level in column.levels[:MAX_LOOKED_AT]), default=0)
    if longest < LONG:
        return
    long = np.array([*(len(level) >= LONG for level in column.levels), False])[column.codes]
    if not long.any():
        return
    yield Finding(
        key=f"long text: {column.name}",
        title=f"{column.name} holds long texts, up to {grouped(longest)} characters",
        why="Prose is no category: a comparison or a model cannot use it, and it may name people. Take out "
        "what is needed with a text step.",
        rows=context.numbers(long),
        columns=(column.name,),
        choices=(KEEP,),
    )


def _unsupported(context: FindingContext) -> Iterator[Finding]:
    pair = inspections(context.table)
    if pair is not None:
        yield Finding(
            key=f"inspections: {', '.join(pair)}",
            title=f"The event is known only to lie between {pair[0]} and {pair[1]}",
            why=WHY_INSPECTIONS,
            rows=context.table.numbers[:0],
            columns=pair,
            choices=(KEEP,),
        )
    for column in context.columns:
        if isinstance(column, NumberColumn) and is_weight(column):
            yield Finding(
                key=f"weights: {column.name}",
                title=f"{column.name} looks like a weight for each row",
                why=WHY_WEIGHTS,
                rows=context.table.numbers[:0],
                columns=(column.name,),
                choices=(KEEP,),
            )

"""Findings about cells that hold dates which nobody can read for sure."""

import re
from collections.abc import Iterator

import numpy as np
import pyarrow as pa

from hourglass.cohort.findings.finding import (
    CORRECT,
    KEEP,
    Choice,
    Finding,
    FindingContext,
    count,
    set_aside,
)
from hourglass.cohort.reading.dates import AS_WRITTEN, DateCells, Order, date_cells, order_of
from hourglass.cohort.steps.types import ReadAsDates, serial_days
from hourglass.cohort.table import DateColumn, NumberColumn, TextColumn
from hourglass.cohort.words import grouped


def share_that_fits(
    column: TextColumn, levels: list[str], fits: np.ndarray
) -> tuple[float, np.ndarray]:
    """The share of known cells whose level fits, and (n,) True where the cell does not."""
    fitting = {level for level, fit in zip(levels, fits, strict=True) if fit}
    known = column.codes >= 0
    odd = known & ~np.array([*(level in fitting for level in column.levels), False])[column.codes]
    return 1 - odd.sum() / max(known.sum(), 1), odd


def written_dates(
    context: FindingContext, column: TextColumn, levels: list[str], cells: pa.Array
) -> Iterator[Finding]:
    found = date_cells(cells)
    if found.year_first == "only":
        found = date_cells(cells, "year first")
    shaped = found.known | found.numbered
    if share_that_fits(column, levels, shaped)[0] < 0.5:
        return
    both = _readings(column, found, ("day first", "month first"))
    known = np.asarray(column.codes >= 0)
    days, months = int(found.day_first.sum()), int(found.month_first.sum())
    if found.year_first == "may be":
        yield _year_or_day(context, column, found)
        return
    if days and months and found.year_first == "no":
        hit = (
            known
            & np.array(
                [
                    *(
                        level in {v for v, m in zip(levels, found.month_first, strict=True) if m}
                        for level in column.levels
                    ),
                    False,
                ]
            )[column.codes]
        )
        title = f"{column.name} has dates in two formats"
        why = (
            f"{grouped(days)} distinct cells can only have the day first and {grouped(months)} only "
            "the month. Where both "
            "readings are possible nobody can tell; read one way, such cells may be wrong by months."
        )
        yield Finding(
            key=f"two formats: {column.name}",
            title=title,
            why=why,
            rows=context.numbers(hit),
            columns=(column.name,),
            choices=(*both, KEEP, CORRECT),
        )
        return
    _, wrong = share_that_fits(column, levels, found.known)
    if found.numbered.any() and not days and not months and found.year_first == "no":
        title = f"{column.name}: the day or the month may come first"
        why = "No cell has a number over 12 to decide it. Ask whoever made the file, then choose."
        yield Finding(
            key=f"either order: {column.name}",
            title=title,
            why=why,
            rows=context.numbers(known),
            columns=(column.name,),
            choices=(*both, KEEP),
        )
        return
    if wrong.any():
        shown = ", ".join(dict.fromkeys(column.cell(int(k)) for k in np.flatnonzero(wrong)[:5]))
        reads = (
            *_serials(column, levels, found, wrong),
            *_readings(column, found, (order_of(found),), "Read as dates, these missing"),
        )
        yield Finding(
            key=f"not all dates: {column.name}",
            title=f"{column.name} holds dates, but not in {count(wrong)}: {shown}",
            why="A day the calendar does not have, or words, keep the whole column from being read as "
            "dates. Correct the cells, or read it with them missing.",
            rows=context.numbers(wrong),
            columns=(column.name,),
            choices=(*reads, CORRECT, KEEP),
        )
        return
    if not found.some_zoned and found.known.any():
        yield Finding(
            key=f"dates as text: {column.name}",
            title=f"{column.name} holds dates only, and is still text",
            why="What kept it from being read as dates is no longer among the rows. As text it can be no "
            "start "
            "and no end.",
            rows=context.numbers(known),
            columns=(column.name,),
            choices=(*_readings(column, found, (order_of(found),)), KEEP),
        )
        return
    if found.some_zoned:
        without = {v for v, zoned in zip(levels, found.zoned, strict=True) if not zoned}
        hit = known & np.array([*(v in without for v in column.levels), False])[column.codes]
        yield Finding(
            key=f"some time zones: {column.name}",
            title=f"{column.name} names no time zone in {count(hit)}, and one in the others",
            why=f"Others say {', '.join(found.zones[:4])}. Taken for universal time, a time without a zone "
            "may be hours off, and its day with it. Ask whoever made the file, then choose.",
            rows=context.numbers(hit),
            columns=(column.name,),
            choices=(
                *_readings(column, found, (order_of(found),)),
                set_aside(
                    context.numbers(hit), f"{column.name} without a time zone", "Set these aside"
                ),
                KEEP,
                CORRECT,
            ),
        )


def _serials(
    column: TextColumn, levels: list[str], found: DateCells, wrong: np.ndarray
) -> tuple[Choice, ...]:
    """The choice to take cells for a spreadsheet's days, where they would lie among the other dates."""
    days = serial_days(levels)
    known = found.instants[~np.isnat(found.instants)]
    there = days[~np.isnat(days)]
    if there.size == 0 or known.size == 0:
        return ()
    room = max(known.max() - known.min(), np.timedelta64(366, "D"))
    if there.min() < known.min() - room or there.max() > known.max() + room:
        return ()
    step = ReadAsDates(column=column.name, order=order_of(found), serials=True)
    left = set(np.array(levels)[np.isnat(days) & np.isnat(found.instants)])
    rest = sum(n for level, n in column.counts().items() if level in left)
    more = f", {grouped(rest)} others missing" if rest else ""
    label = f"Read as dates, the numbers as a spreadsheet’s days{more}"
    return (
        Choice(
            name="read serials",
            label=label,
            done="read as dates, numbers as days since 1900",
            steps=(step,),
        ),
    )


def _year_or_day(context: FindingContext, column: TextColumn, found: DateCells) -> Finding:
    """Three numbers of two digits, of which the first may be the year; other columns may speak for it."""
    orders: tuple[Order, ...] = ("year first", "day first")
    if not found.day_first.any():
        orders = (*orders, "month first")
    beside = [
        other.name
        for other in context.columns
        if isinstance(other, DateColumn) and other.as_written is not None
        and date_cells(other.as_written.texts).year_first == "only"
    ]  # fmt: skip
    evidence = (
        f" In {beside[0]} of the same file the year can only come first."
        if beside
        else " No other column of the file says."
    )
    return Finding(
        key=f"either order: {column.name}",
        title=f"{column.name}: the year or the day may come first",
        why="All its numbers have two digits, and each order gives days of the calendar. Read the wrong way, "
        f"follow-ups end before they start or last for decades.{evidence}",
        rows=context.numbers(np.asarray(column.codes >= 0)),
        columns=(column.name,),
        choices=(*_readings(column, found, orders), KEEP),
    )


def _readings(
    column: TextColumn, found: DateCells, orders: tuple[Order, ...], label: str = ""
) -> tuple[Choice, ...]:
    """The ways to read a column as dates: in each order, and with each zone where cells name none."""
    zones = [("", "")]
    if found.some_zoned:
        offsets = [z if ":" in z else f"{z[:3]}:{z[3:]}" for z in found.zones if z != "Z"]
        zones = [("+00:00", "others in universal time")]
        zones += [(z, f"others at {z}") for z in dict.fromkeys(offsets[:3]) if z != "+00:00"]
        zones.append((AS_WRITTEN, "all as written, zones left out"))
    made = []
    for order in orders:
        # Where no date is written in numbers alone the order does not matter.
        how = f"as {order}" if found.numbered.any() else "as dates"
        for zone, others in zones:
            words = f", {others}" if others else ""
            made.append(
                Choice(
                    name=f"read {order}{zone and f', {zone}'}",
                    label=f"{label or f'Read {how}'}{words}",
                    done=f"read {how}{words}",
                    steps=(ReadAsDates(column=column.name, order=order, zone=zone),),
                )
            )
    return tuple(made)


def hidden_dates(context: FindingContext, column: NumberColumn) -> Iterator[Finding]:
    known = column.values[~column.missing]
    if known.size == 0 or (column.decimals > 0 and "dat" not in column.name.lower()):
        return
    order = None
    if ((known >= 19_000_101) & (known <= 21_001_231)).all() and (known % 100 <= 31).all():
        if ((known // 100 % 100 >= 1) & (known // 100 % 100 <= 12)).all():
            order, like = "year month day", f"{known[0]:.0f}"
    elif ((known >= 10_000) & (known <= 80_000)).all() and re.search(
        r"dat|start|end|birth|seen|^column \d", column.name.lower()
    ):
        order, like = "spreadsheet days", f"{known[0]:.0f}, days since 1900"
    if order is None:
        return
    step = ReadAsDates.model_validate({"column": column.name, "order": order})
    yield Finding(
        key=f"dates as numbers: {column.name}",
        title=f"{column.name} looks like dates kept as numbers",
        why=f"Its values are such as {like}. As a number it can only be measured, not be a start or an end.",
        rows=context.numbers(~column.missing),
        columns=(column.name,),
        choices=(
            Choice(name="read dates", label="Read as dates", done="read as dates", steps=(step,)),
            KEEP,
        ),
    )

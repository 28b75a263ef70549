"""Findings about single values: spellings, numbers as text, codes for missing, extremes, dates."""

import re
import unicodedata
from collections import defaultdict
from collections.abc import Iterator
from functools import lru_cache

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from hourglass.cohort.findings.finding import (
    CORRECT,
    KEEP,
    Choice,
    Finding,
    FindingContext,
    count,
    set_aside,
)
from hourglass.cohort.findings.times import clock_columns
from hourglass.cohort.profile import ordered_values, profile_of
from hourglass.cohort.reading.dates import AS_WRITTEN, DateCells, Order, date_cells, order_of
from hourglass.cohort.reading.numbers import pattern
from hourglass.cohort.steps.cells import MarkMissing
from hourglass.cohort.steps.levels import RespellLevels
from hourglass.cohort.steps.types import ReadAsDates, ReadAsNumbers
from hourglass.cohort.table import DateColumn, NumberColumn, TextColumn
from hourglass.cohort.words import cut, grouped, listed

EXTREME_QUARTILE_RANGES = 2.5
"""A number further than this many interquartile ranges outside the quartiles is extreme."""
MOST_LEVELS_TO_RESPELL = 200
MISSING_CODES = np.array([99.0, 999.0, 9999.0, -1.0, -9.0, -99.0, -999.0, 88.0, 888.0, 777.0])
NEVER_BELOW_ZERO = re.compile(
    r"\b(age|weight|height|dose|count|cells|size|length|duration|number)\b|^n_|_n$|(?<![a-z])kg(?![a-z])"
)
DECIMAL_COMMA = r"^\s*[+-]?\d+,(\d{1,2}|\d{4,})\s*$"
PERCENT = re.compile(r"percent|pct|%|share_of")


def cell_findings(context: FindingContext) -> Iterator[Finding]:
    """What is odd about the values of columns."""
    for column in context.columns:
        if isinstance(column, TextColumn):
            yield from _text(context, column)
        elif isinstance(column, NumberColumn):
            yield from _impossible(context, column)
            yield from _codes_for_missing(context, column)
            yield from _extremes(context, column)
            yield from _hidden_dates(context, column)


def _text(context: FindingContext, column: TextColumn) -> Iterator[Finding]:
    levels = list(column.counts()) if len(column.levels) < 200_000 else []
    if not levels:
        return
    dates: list[Finding] = []
    numbers: list[Finding] = []
    if any(map(str.isdigit, "".join(levels))):
        cells = pc.utf8_trim_whitespace(pa.array(levels, pa.string()))
        dates = list(_dates(context, column, levels, cells))
        numbers = [] if dates else list(_numbers(context, column, levels, cells))
        yield from (*dates, *numbers)
    outcome = context.statement.outcome  # the spellings of its codes are shown with their meanings
    if (
        not dates
        and not numbers
        and len(levels) <= MOST_LEVELS_TO_RESPELL
        and column.name != outcome
    ):
        yield from _spellings(context, column)


def _spellings(context: FindingContext, column: TextColumn) -> Iterator[Finding]:
    counts = column.counts()
    families: dict[str, list[str]] = defaultdict(list)
    for level in counts:
        families[folded(level)].append(level)
    spelling: dict[str, str] = {}
    for family in families.values():
        best = " ".join(max(family, key=lambda level: counts[level]).split())
        spelling |= {level: best for level in family if level != best}
    if not spelling:
        return
    hit = np.array([*(level in spelling for level in column.levels), False])[column.codes]
    after = {spelling.get(level, level) for level in counts}
    step = RespellLevels(column=column.name, spelling=spelling)
    yield Finding(
        f"spelled in several ways: {column.name}",
        f"{column.name} spells {len(after)} levels in {len(counts)} ways",
        "Spaces, capitals and accents make one level look like several: "
        + listed([f"“{cut(a)}” would become “{cut(b)}”" for a, b in sorted(spelling.items())])
        + ".",
        context.numbers(hit),
        (column.name,),
        (Choice("respell", "Spell one way", "spelled one way", (step,)), KEEP),
    )


@lru_cache(maxsize=20_000)
def folded(level: str) -> str:
    """A level without what may differ by carelessness: spaces, capitals, accents."""
    plain = unicodedata.normalize("NFKD", " ".join(level.split()).casefold())
    return "".join(ch for ch in plain if not unicodedata.combining(ch))


def _share(column: TextColumn, levels: list[str], fits: np.ndarray) -> tuple[float, np.ndarray]:
    """The share of known cells whose level fits, and (n,) True where the cell does not."""
    fitting = {level for level, fit in zip(levels, fits, strict=True) if fit}
    known = column.codes >= 0
    odd = known & ~np.array([*(level in fitting for level in column.levels), False])[column.codes]
    return 1 - odd.sum() / max(known.sum(), 1), odd


def _numbers(
    context: FindingContext, column: TextColumn, levels: list[str], cells: pa.Array
) -> Iterator[Finding]:
    plain = pc.match_substring_regex(cells, pattern(".", "")).to_numpy(zero_copy_only=False)
    comma = pc.match_substring_regex(cells, pattern(",", ".")).to_numpy(zero_copy_only=False)
    grouped = pc.match_substring_regex(cells, pattern(".", ",")).to_numpy(zero_copy_only=False)
    coded = pc.match_substring_regex(cells, r"^[+-]?(0\d|\d{16,}$)").to_numpy(zero_copy_only=False)
    any_way = (plain | comma | grouped) & ~coded
    share, odd = _share(column, levels, any_way)
    if share < 0.5 or not any_way.any() or coded.mean() > 0.3:
        return
    choices = []
    points = not any("," in level for level in levels)
    readings = [
        (plain, "Read points as decimal points" if points else "Read as numbers", ".", ""),
        (comma, "Read points as thousands" if points else "Read with a decimal comma", ",", "."),
        (grouped, "Read commas as thousands", ".", ","),
    ]
    beside = _decimal_comma_beside(context, column)
    if beside:
        readings = [readings[1], readings[0], readings[2]]
    for fits, label, decimal, thousands in readings[: 2 if points else 3]:
        if fits.sum() == max(plain.sum(), comma.sum(), grouped.sum()):
            step = ReadAsNumbers(column=column.name, decimal=decimal, thousands=thousands)
            choices.append(Choice(f"read {decimal}{thousands}", label, "read as numbers", (step,)))
    shown = ", ".join(dict.fromkeys(column.cell(int(k)) for k in np.flatnonzero(odd)[:5]))
    lost = f" {count(odd)} that are no numbers would become missing: {shown}." if odd.any() else ""
    mark = "point" if points else "comma"
    asks = (
        f" A single {mark} may be the decimal mark or set thousands apart.{beside}"
        if len(choices) > 1
        else ""
    )
    hit = odd if odd.any() else np.asarray(column.codes >= 0)
    yield Finding(
        f"numbers as text: {column.name}",
        f"{column.name} holds numbers written as text",
        f"As text it can only form groups.{asks}{lost}",
        context.numbers(hit),
        (column.name,),
        (*choices, KEEP, CORRECT),
    )


def _decimal_comma_beside(context: FindingContext, column: TextColumn) -> str:
    """What another column says of decimal commas in this file; nothing where none has one."""
    for other in context.columns:
        written = None if other is column else other.as_written
        if isinstance(other, NumberColumn) and written is not None:
            cells = written.texts
            hit = pc.match_substring_regex(cells, DECIMAL_COMMA).to_numpy(zero_copy_only=False)
            if hit.any():
                cell = cells[int(np.flatnonzero(hit)[0])].as_py()
                return f" In {other.name} a comma is the decimal mark, as in {cell.strip()}."
    return ""


def _dates(
    context: FindingContext, column: TextColumn, levels: list[str], cells: pa.Array
) -> Iterator[Finding]:
    found = date_cells(cells)
    if found.year_first == "only":
        found = date_cells(cells, "year first")
    shaped = found.known | found.numbered
    if _share(column, levels, shaped)[0] < 0.5:
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
            f"two formats: {column.name}",
            title,
            why,
            context.numbers(hit),
            (column.name,),
            (*both, KEEP, CORRECT),
        )
        return
    _, wrong = _share(column, levels, found.known)
    if found.numbered.any() and not days and not months and found.year_first == "no":
        title = f"{column.name}: the day or the month may come first"
        why = "No cell has a number over 12 to decide it. Ask whoever made the file, then choose."
        yield Finding(
            f"either order: {column.name}",
            title,
            why,
            context.numbers(known),
            (column.name,),
            (*both, KEEP),
        )
        return
    if wrong.any():
        shown = ", ".join(dict.fromkeys(column.cell(int(k)) for k in np.flatnonzero(wrong)[:5]))
        reads = _readings(column, found, (order_of(found),), "Read as dates, these missing")
        yield Finding(
            f"not all dates: {column.name}",
            f"{column.name} holds dates, but not in {count(wrong)}: {shown}",
            "A day the calendar does not have, or words, keep the whole column from being read as "
            "dates. Correct the cells, or read it with them missing.",
            context.numbers(wrong),
            (column.name,),
            (*reads, CORRECT, KEEP),
        )
        return
    if found.some_zoned:
        without = {v for v, zoned in zip(levels, found.zoned, strict=True) if not zoned}
        hit = known & np.array([*(v in without for v in column.levels), False])[column.codes]
        yield Finding(
            f"some time zones: {column.name}",
            f"{column.name} names no time zone in {count(hit)}, and one in the others",
            f"Others say {', '.join(found.zones[:4])}. Taken for universal time, a time without a zone "
            "may be hours off, and its day with it. Ask whoever made the file, then choose.",
            context.numbers(hit),
            (column.name,),
            (*_readings(column, found, (order_of(found),)), KEEP, CORRECT),
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
        f"either order: {column.name}",
        f"{column.name}: the year or the day may come first",
        "All its numbers have two digits, and each order gives days of the calendar. Read the wrong way, "
        f"follow-ups end before they start or last for decades.{evidence}",
        context.numbers(np.asarray(column.codes >= 0)),
        (column.name,),
        (*_readings(column, found, orders), KEEP),
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
        # Where no date is written in numbers alone the order says nothing.
        how = f"as {order}" if found.numbered.any() else "as dates"
        for zone, others in zones:
            words = f", {others}" if others else ""
            made.append(
                Choice(
                    f"read {order}{zone and f', {zone}'}",
                    f"{label or f'Read {how}'}{words}",
                    f"read {how}{words}",
                    (ReadAsDates(column=column.name, order=order, zone=zone),),
                )
            )
    return tuple(made)


def _hidden_dates(context: FindingContext, column: NumberColumn) -> Iterator[Finding]:
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
        f"dates as numbers: {column.name}",
        f"{column.name} looks like dates kept as numbers",
        f"Its values are such as {like}. As a number it can only be measured, not be a start or an end.",
        context.numbers(~column.missing),
        (column.name,),
        (Choice("read dates", "Read as dates", "read as dates", (step,)), KEEP),
    )


def _impossible(context: FindingContext, column: NumberColumn) -> Iterator[Finding]:
    name = column.name.lower()
    with np.errstate(invalid="ignore"):
        if (
            NEVER_BELOW_ZERO.search(name.replace("_", " "))
            and column.name not in context.statement.spent
        ):
            hit, limit = column.values < 0, "below 0"
            if re.search(r"\bage\b", name.replace("_", " ")):
                hit, limit = hit | (column.values > 120), "below 0 or above 120"
        elif PERCENT.search(name):
            hit, limit = (column.values < 0) | (column.values > 100), "below 0 or above 100"
        else:
            return
    hit = hit & ~np.isin(column.values, MISSING_CODES)
    if not hit.any():
        return
    rows = context.numbers(hit)
    values = ", ".join(column.cell(int(k)) for k in np.flatnonzero(hit)[:5])
    yield Finding(
        f"impossible: {column.name}",
        f"{column.name} is {limit} in {count(hit)}: {values}",
        "No such value can be. It is a slip, or a code for something else.",
        rows,
        (column.name,),
        (set_aside(rows, f"{column.name} impossible"), CORRECT, KEEP),
    )


def _codes_for_missing(context: FindingContext, column: NumberColumn) -> Iterator[Finding]:
    known = ordered_values(column)
    below, up_to = (np.searchsorted(known, MISSING_CODES, side) for side in ("left", "right"))
    if (below == up_to).all():
        return
    distinct, n = np.unique(known, return_counts=True)
    if distinct.size < 3:
        return
    found = []
    for code in MISSING_CODES:
        at = np.flatnonzero(distinct == code)
        timed = column.name in clock_columns(context.statement)
        if at.size == 0 or n[at[0]] < (1 if timed and code in (999.0, 9999.0) else 2):
            continue
        others = np.delete(distinct, at[0])
        others = others[~np.isin(others, MISSING_CODES)]
        # Nines and minus ones count as codes only where they stand apart from everything else.
        spread = np.ptp(others) if others.size else 0.0
        apart = (
            code > others.max() + 0.1 * spread if code > 0 else others.size and others.min() >= 0
        )
        heaped = timed and code > 0 and n[at[0]] >= max(5, 10 * np.median(n))
        if others.size >= 2 and (apart or heaped):
            found.append(code)
    if not found:
        return
    hit = np.isin(column.values, found)
    listed = ", ".join(f"{code:g}" for code in found)
    step = MarkMissing(column=column.name, values=tuple(f"{code:g}" for code in found))
    yield Finding(
        f"code for missing: {column.name}",
        f"{column.name} is {listed} in {count(hit)}: a value, or a word for “missing”?",
        "The number stands apart from all others and is often written where nothing is known. Taken "
        "for a value it would pull every mean and every ratio.",
        context.numbers(hit),
        (column.name,),
        (
            Choice("mark missing", "Take it for missing", "taken for missing", (step,)),
            KEEP,
            CORRECT,
        ),
    )


def quartiles(ordered: np.ndarray) -> tuple[float, float]:
    """The lower and upper quartile of ascending values, by straight lines between them."""
    at = np.array([0.25, 0.75]) * (ordered.size - 1)
    below = np.floor(at).astype(int)
    above = ordered[np.minimum(below + 1, ordered.size - 1)]
    low, high = ordered[below] + (at - below) * (above - ordered[below])
    return float(low), float(high)


def _extremes(context: FindingContext, column: NumberColumn) -> Iterator[Finding]:
    if profile_of(column).distinct < 8:
        return
    ordered = ordered_values(column)
    low, high = quartiles(ordered)
    reach = EXTREME_QUARTILE_RANGES * (high - low)
    if reach == 0 or (ordered[0] >= low - reach and ordered[-1] <= high + reach):
        return
    with np.errstate(invalid="ignore"):
        extreme = (column.values < low - reach) | (column.values > high + reach)
    # A long tail is a shape, not a fault.
    if extreme.sum() > max(5, 0.01 * ordered.size):
        return
    values = ", ".join(column.cell(int(k)) for k in np.flatnonzero(extreme)[:5])
    one = extreme.sum() == 1
    rows = context.numbers(extreme)
    short = f"{column.name} {values}" if one else f"{column.name} far from the rest"
    furthest = np.max(np.maximum(low - column.values[extreme], column.values[extreme] - high))
    yield Finding(
        f"extreme: {column.name}",
        f"{column.name} is far from the rest in {count(extreme)}: {values}",
        f"Half of the values lie between {low:g} and {high:g}; the furthest is "
        f"{furthest / (high - low):.1f} times that range outside. "
        f"{'It' if one else 'They'} may be a slip of the pen, or somebody who does not belong here.",
        rows,
        (column.name,),
        (set_aside(rows, short), KEEP, CORRECT),
    )

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
from hourglass.cohort.findings.written_dates import hidden_dates, share_that_fits, written_dates
from hourglass.cohort.findings.written_times import written_times
from hourglass.cohort.profile import ordered_values, profile_of
from hourglass.cohort.reading.numbers import pattern
from hourglass.cohort.steps.cells import MarkMissing
from hourglass.cohort.steps.levels import RespellLevels
from hourglass.cohort.steps.types import ReadAsNumbers
from hourglass.cohort.table import NumberColumn, TextColumn
from hourglass.cohort.words import cut, listed

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
            yield from hidden_dates(context, column)


def _text(context: FindingContext, column: TextColumn) -> Iterator[Finding]:
    levels = list(column.counts()) if len(column.levels) < 200_000 else []
    if not levels:
        return
    dates: list[Finding] = []
    numbers: list[Finding] = []
    if any(map(str.isdigit, "".join(levels))):
        cells = pc.utf8_trim_whitespace(pa.array(levels, pa.string()))
        dates = list(written_dates(context, column, levels, cells))
        numbers = [] if dates else list(written_times(context, column, levels))
        numbers = numbers or ([] if dates else list(_numbers(context, column, levels, cells)))
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
        key=f"spelled in several ways: {column.name}",
        title=f"{column.name} spells {len(after)} levels in {len(counts)} ways",
        why="Spaces, capitals and accents make one level look like several: "
        + listed([f"“{cut(a)}” would become “{cut(b)}”" for a, b in sorted(spelling.items())])
        + ".",
        rows=context.numbers(hit),
        columns=(column.name,),
        choices=(
            Choice(name="respell", label="Spell one way", done="spelled one way", steps=(step,)),
            KEEP,
        ),
    )


@lru_cache(maxsize=20_000)
def folded(level: str) -> str:
    """A level without what may differ by carelessness: spaces, capitals, accents."""
    plain = unicodedata.normalize("NFKD", " ".join(level.split()).casefold())
    return "".join(ch for ch in plain if not unicodedata.combining(ch))


def _numbers(
    context: FindingContext, column: TextColumn, levels: list[str], cells: pa.Array
) -> Iterator[Finding]:
    plain = pc.match_substring_regex(cells, pattern(".", "")).to_numpy(zero_copy_only=False)
    comma = pc.match_substring_regex(cells, pattern(",", ".")).to_numpy(zero_copy_only=False)
    grouped = pc.match_substring_regex(cells, pattern(".", ",")).to_numpy(zero_copy_only=False)
    coded = pc.match_substring_regex(cells, r"^[+-]?(0\d|\d{16,}$)").to_numpy(zero_copy_only=False)
    any_way = (plain | comma | grouped) & ~coded
    share, odd = share_that_fits(column, levels, any_way)
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
            choices.append(
                Choice(
                    name=f"read {decimal}{thousands}",
                    label=label,
                    done="read as numbers",
                    steps=(step,),
                )
            )
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
        key=f"numbers as text: {column.name}",
        title=f"{column.name} holds numbers written as text",
        why=f"As text it can only form groups.{asks}{lost}",
        rows=context.numbers(hit),
        columns=(column.name,),
        choices=(*choices, KEEP, CORRECT),
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
        key=f"impossible: {column.name}",
        title=f"{column.name} is {limit} in {count(hit)}: {values}",
        why="No such value can be. It is a slip, or a code for something else.",
        rows=rows,
        columns=(column.name,),
        choices=(set_aside(rows, f"{column.name} impossible"), CORRECT, KEEP),
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
        key=f"code for missing: {column.name}",
        title=f"{column.name} is {listed} in {count(hit)}: a value, or a word for “missing”?",
        why="The number stands apart from all others and is often written where nothing is known. Taken "
        "for a value it would pull every mean and every ratio.",
        rows=context.numbers(hit),
        columns=(column.name,),
        choices=(
            Choice(
                name="mark missing",
                label="Take it for missing",
                done="taken for missing",
                steps=(step,),
            ),
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
        key=f"extreme: {column.name}",
        title=f"{column.name} is far from the rest in {count(extreme)}: {values}",
        why=f"Half of the values lie between {low:g} and {high:g}; the furthest is "
        f"{furthest / (high - low):.1f} times that range outside. "
        f"{'It' if one else 'They'} may be a slip of the pen, or somebody who does not belong here.",
        rows=rows,
        columns=(column.name,),
        choices=(set_aside(rows, short), KEEP, CORRECT),
    )

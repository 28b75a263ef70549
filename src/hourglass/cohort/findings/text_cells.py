"""Findings about single values of text: spellings, and numbers, dates and times as text."""

import unicodedata
from collections import defaultdict
from collections.abc import Iterator
from functools import lru_cache

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from hourglass.cohort.findings.finding import CORRECT, KEEP, Choice, Finding, FindingContext, count
from hourglass.cohort.findings.written_dates import share_that_fits, written_dates
from hourglass.cohort.findings.written_times import written_times
from hourglass.cohort.reading.numbers import pattern
from hourglass.cohort.steps.levels import RespellLevels
from hourglass.cohort.steps.types import ReadAsNumbers
from hourglass.cohort.table import NumberColumn, TextColumn
from hourglass.cohort.words import cut, listed

MAX_LEVELS_TO_RESPELL = 200
DECIMAL_COMMA = r"^\s*[+-]?\d+,(\d{1,2}|\d{4,})\s*$"


def text_findings(context: FindingContext, column: TextColumn) -> Iterator[Finding]:
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
        and len(levels) <= MAX_LEVELS_TO_RESPELL
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
    requests = (
        f" A single {mark} may be the decimal mark or set thousands apart.{beside}"
        if len(choices) > 1
        else ""
    )
    hit = odd if odd.any() else np.asarray(column.codes >= 0)
    yield Finding(
        key=f"numbers as text: {column.name}",
        title=f"{column.name} holds numbers written as text",
        why=f"As text it can only form groups.{requests}{lost}",
        rows=context.numbers(hit),
        columns=(column.name,),
        choices=(*choices, KEEP, CORRECT),
    )


def _decimal_comma_beside(context: FindingContext, column: TextColumn) -> str:
    """What another column states about decimal commas in this file; nothing where none has one."""
    for other in context.columns:
        written = None if other is column else other.as_written
        if isinstance(other, NumberColumn) and written is not None:
            cells = written.texts
            hit = pc.match_substring_regex(cells, DECIMAL_COMMA).to_numpy(zero_copy_only=False)
            if hit.any():
                cell = cells[int(np.flatnonzero(hit)[0])].as_py()
                return f" In {other.name} a comma is the decimal mark, as in {cell.strip()}."
    return ""

"""Findings about columns that disagree with what they are made of."""

from collections.abc import Iterator
from itertools import combinations

import numpy as np
from numpy.typing import NDArray

from hourglass.cohort.code_meanings import EVENT_DATES
from hourglass.cohort.findings.finding import (
    CORRECT,
    KEEP,
    Finding,
    FindingContext,
    count,
    set_aside,
)
from hourglass.cohort.statement import DAYS_IN, Unit
from hourglass.cohort.table import DateColumn, NumberColumn
from hourglass.cohort.words import grouped
from hourglass.core.arrays import evenly_placed

MIN_COMPARED_ROWS = 8
AGREE = 0.8
MAX_DATES, MAX_NUMBERS = 8, 40
SAMPLE = 2_000


def definition_findings(context: FindingContext) -> Iterator[Finding]:
    """Durations that are not the time between their dates, and outcomes against dates of events."""
    yield from _durations(context)
    yield from _status_against_dates(context)


def _durations(context: FindingContext) -> Iterator[Finding]:
    dates = [c for c in context.columns if isinstance(c, DateColumn)][:MAX_DATES]
    numbers = [c for c in context.columns if isinstance(c, NumberColumn)][:MAX_NUMBERS]
    if len(dates) < 2 or not numbers:
        return
    some = evenly_placed(context.table.size, SAMPLE)
    days = {c.name: c.days for c in dates}
    for column in numbers:
        best: tuple[float, str, str, Unit] | None = None
        for a, b in combinations(dates, 2):
            between = days[b.name][some] - days[a.name][some]
            if np.isfinite(between).sum() < MIN_COMPARED_ROWS:
                continue
            sign = -1.0 if np.nanmedian(between) < 0 else 1.0
            first, last = (a, b) if sign > 0 else (b, a)
            for unit, size in DAYS_IN.items():
                share = _share(column.values[some], sign * between / size, column, unit)
                if share >= AGREE and (best is None or share > best[0]):
                    best = (share, first.name, last.name, unit)
        if best is None:
            continue
        _, start, end, unit = best
        expected = (days[end] - days[start]) / DAYS_IN[unit]
        both = np.isfinite(expected) & ~column.missing
        hit = both & ~_near(column.values, expected, column, unit)
        if not hit.any() or hit.sum() > (1 - AGREE) * both.sum():
            continue
        rows = context.numbers(hit)
        k = int(np.flatnonzero(hit)[0])
        yield Finding(
            key=f"disagrees: {column.name}",
            title=f"{column.name} is not the time from {start} to {end} in {count(hit)}",
            why=f"In {grouped(int(both.sum() - hit.sum()))} rows it is that time in {unit}; in row {rows[0]} "
            f"it is {column.cell(k)} where the dates give {expected[k]:.4g}. One of the three is wrong.",
            rows=rows,
            columns=(start, end, column.name),
            choices=(KEEP, CORRECT, set_aside(rows, f"{column.name} against its dates")),
        )


def _share(
    values: NDArray[np.float64], expected: NDArray[np.float64], column: NumberColumn, unit: Unit
) -> float:
    both = np.isfinite(values) & np.isfinite(expected)
    if both.sum() < MIN_COMPARED_ROWS or np.unique(values[both]).size < MIN_COMPARED_ROWS:
        return 0.0
    return float(_near(values[both], expected[both], column, unit).mean())


def _near(
    values: NDArray[np.float64], expected: NDArray[np.float64], column: NumberColumn, unit: Unit
) -> NDArray[np.bool_]:
    """Whether values are the expected ones as far as they are written: rounded or cut off.

    Months and years may be counted by the calendar, days with both ends.
    """
    calendar = unit in ("months", "years")
    loose = 0.01 * np.abs(expected) + 2 / DAYS_IN[unit] if calendar else np.zeros(expected.size)
    with np.errstate(invalid="ignore"):
        return np.asarray(np.abs(values - expected) <= loose + 10.0**-column.decimals + 1e-9)


def _status_against_dates(context: FindingContext) -> Iterator[Finding]:
    events, statement = context.events(), context.statement
    if events is None or statement.ended != "codes" or statement.clock.kind == "first of":
        return
    if context.derived is None or None in context.derived.meanings:
        return
    censored = context.derived.means("censored")
    for column in context.columns:
        if not isinstance(column, DateColumn) or column.name in statement.spent:
            continue
        if not any(word in column.name.lower() for word in EVENT_DATES):
            continue
        dated = ~column.missing
        agree = (events & dated) | (censored & ~dated)
        of = int((events | censored).sum())
        if (
            of < MIN_COMPARED_ROWS
            or dated.sum() < MIN_COMPARED_ROWS
            or agree.sum() < AGREE * of
            or agree.sum() == of
        ):
            continue
        for hit, text, what in (
            (
                censored & dated,
                "censored with a date",
                "is censored, and the date says the event was",
            ),
            (events & ~dated, "event without a date", "has the event, and no date says when"),
        ):
            if not hit.any():
                continue
            rows = context.numbers(hit)
            yield Finding(
                key=f"{text}: {column.name}",
                title=f"{statement.outcome} says one thing and {column.name} another in {count(hit)}",
                why=f"Each of these rows {what}. In {grouped(int(agree.sum()))} rows both say the same.",
                rows=rows,
                columns=(statement.outcome or "", column.name),
                choices=(KEEP, CORRECT, set_aside(rows, text)),
            )

"""Findings about single numbers: impossible ones, codes for missing, extremes."""

import re
from collections.abc import Iterator

import numpy as np

from hourglass.cohort.findings.finding import (
    CORRECT,
    KEEP,
    Finding,
    FindingContext,
    count,
    set_aside,
    take_for_missing,
)
from hourglass.cohort.findings.times import clock_columns
from hourglass.cohort.profile import ordered_values, profile_of
from hourglass.cohort.table import NumberColumn

EXTREME_QUARTILE_RANGES = 2.5
"""A number further than this many interquartile ranges outside the quartiles is extreme."""
MISSING_CODES = np.array([99.0, 999.0, 9999.0, -1.0, -9.0, -99.0, -999.0, 88.0, 888.0, 777.0])
NEVER_BELOW_ZERO = re.compile(
    r"\b(age|weight|height|dose|count|cells|size|length|duration|number)\b|^n_|_n$|(?<![a-z])kg(?![a-z])"
)
PERCENT = re.compile(r"percent|pct|%|share_of")


def impossible(context: FindingContext, column: NumberColumn) -> Iterator[Finding]:
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


def codes_for_missing(context: FindingContext, column: NumberColumn) -> Iterator[Finding]:
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
    codes = [f"{code:g}" for code in found]
    yield Finding(
        key=f"code for missing: {column.name}",
        title=f"{column.name} is {', '.join(codes)} in {count(hit)}: a value, or a word for “missing”?",
        why="The number stands apart from all others and is often written where nothing is known. Taken "
        "for a value it would pull every mean and every ratio.",
        rows=context.numbers(hit),
        columns=(column.name,),
        choices=(take_for_missing(column.name, codes), KEEP, CORRECT),
    )


def quartiles(ordered: np.ndarray) -> tuple[float, float]:
    """The lower and upper quartile of ascending values, by straight lines between them."""
    at = np.array([0.25, 0.75]) * (ordered.size - 1)
    below = np.floor(at).astype(int)
    above = ordered[np.minimum(below + 1, ordered.size - 1)]
    low, high = ordered[below] + (at - below) * (above - ordered[below])
    return float(low), float(high)


def extremes(context: FindingContext, column: NumberColumn) -> Iterator[Finding]:
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

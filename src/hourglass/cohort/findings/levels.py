"""Findings about levels: declared but never there, or left without rows."""

from collections.abc import Iterator

import numpy as np

from hourglass.cohort.findings.finding import KEEP, Finding, FindingContext
from hourglass.cohort.table import TextColumn

MOST_LEVELS = 60
MOST_NAMED = 5


def level_findings(context: FindingContext) -> Iterator[Finding]:
    """Levels that no row has (any more)."""
    for column in context.columns:
        if not isinstance(column, TextColumn) or not 2 <= len(column.levels) <= MOST_LEVELS:
            continue
        held = np.bincount(column.codes[column.codes >= 0], minlength=len(column.levels))
        empty = [level for level, n in zip(column.levels, held, strict=True) if n == 0]
        if not empty or len(empty) == len(column.levels):
            continue
        lost = [level for level in empty if _was_there(context, column.name, level)]
        why = (
            "Its rows have been set aside, so nothing can be said of it. Tables and figures leave it out."
            if lost
            else "The file declares it, but no row has it. Was it lost on the way here?"
        )
        named = ", ".join(f"“{level}”" for level in empty[:MOST_NAMED])
        more = f" and {len(empty) - MOST_NAMED} more" if len(empty) > MOST_NAMED else ""
        many = len(empty) > 1
        yield Finding(
            f"empty levels: {column.name}",
            f"{column.name} has {'levels' if many else 'a level'} without rows: {named}{more}",
            why,
            context.table.numbers[:0],
            (column.name,),
            (KEEP,),
        )


def _was_there(context: FindingContext, name: str, level: str) -> bool:
    raw = context.raw
    if raw is None or not raw.has(name):
        return False
    column = raw.column(name)
    return isinstance(column, TextColumn) and level in column.counts()

"""Findings about levels: declared but never there, or left without rows."""

from collections.abc import Iterator

import numpy as np

from hourglass.cohort.findings.finding import KEEP, Finding, FindingContext
from hourglass.cohort.table import TextColumn

MAX_LEVELS = 60
MAX_NAMED = 5


def level_findings(context: FindingContext) -> Iterator[Finding]:
    """Find levels that no row has, from the beginning or since a step."""
    for column in context.columns:
        if not isinstance(column, TextColumn) or not 2 <= len(column.levels) <= MAX_LEVELS:
            continue
        held = np.bincount(column.codes[column.codes >= 0], minlength=len(column.levels))
        empty = [level for level, n in zip(column.levels, held, strict=True) if n == 0]
        if not empty or len(empty) == len(column.levels):
            continue
        declared = all(_declared(context, column, level) for level in empty)
        why = (
            "The file declares it, but no row has it: ask whoever made the file whether rows are lacking."
            if declared
            else "Its rows have been set aside or put elsewhere, so nothing is known of it. Tables and "
            "figures leave it out."
        )
        named = ", ".join(f"“{level}”" for level in empty[:MAX_NAMED])
        more = f" and {len(empty) - MAX_NAMED} more" if len(empty) > MAX_NAMED else ""
        many = len(empty) > 1
        yield Finding(
            key=f"empty levels: {column.name}",
            title=f"{column.name} has {'levels' if many else 'a level'} without rows: {named}{more}",
            why=why,
            rows=context.table.numbers[:0],
            columns=(column.name,),
            choices=(KEEP,),
        )


def _declared(context: FindingContext, column: TextColumn, level: str) -> bool:
    """Whether the file has a level without a row, rather than a step having left it so."""
    raw = column if context.raw is None else None
    if context.raw is not None and context.raw.has(column.name):
        held = context.raw.column(column.name)
        raw = held if isinstance(held, TextColumn) else None
    return raw is not None and level in raw.levels and level not in raw.counts()

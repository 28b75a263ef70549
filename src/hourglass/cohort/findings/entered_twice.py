"""Findings about subjects with several rows, side by side: what differs, and which row may stay."""

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from hourglass.cohort.findings.finding import (
    CORRECT,
    KEEP,
    Beside,
    Choice,
    Finding,
    FindingContext,
    Rows,
    set_aside,
)
from hourglass.cohort.steps.rows import SetAsideRepeats
from hourglass.cohort.steps.step import keys_of
from hourglass.cohort.table import Column, DateColumn, Table, TextColumn
from hourglass.cohort.words import grouped, listed

MAX_NAMED = 50
MAX_BESIDE, MAX_ROWS_BESIDE, MAX_COLUMNS_BESIDE = 20, 6, 8
MAX_DATES = 3
KEEP_ALL = Choice(name="keep", label="Keep all of them", done="all kept")
MIN_SUBJECT_SHARE = 0.05
"""With fewer subjects than this share of the rows the column names groups rather than subjects."""


def entered_twice(context: FindingContext, subject: str, again: Rows) -> Iterator[Finding]:
    """Subjects with several rows, beside the rows (``again``) that repeat another whole."""
    table, column = context.table, context.table.column(subject)
    keys = np.where(np.isin(table.numbers, again), -1, keys_of(table, [subject]))
    distinct, first, place, n = np.unique(
        keys, return_index=True, return_inverse=True, return_counts=True
    )
    known = distinct >= 0
    if table.size >= MAX_NAMED and 0 < known.sum() < MIN_SUBJECT_SHARE * table.size:
        yield _no_subjects(context, subject, int(known.sum()))
        return
    repeated = np.flatnonzero((n > 1) & known)
    if repeated.size == 0:
        return
    repeated = repeated[np.argsort(first[repeated], kind="stable")]
    order = np.argsort(place, kind="stable")
    ends = np.cumsum(n)
    members = [order[ends[k] - n[k] : ends[k]] for k in repeated[:MAX_NAMED]]
    named = [(column.cell(int(rows[0])), rows) for rows in members]
    together = f"entered twice: {subject}"
    if repeated.size > 1:
        hit = (n[place] > 1) & (keys >= 0)
        yield _all_of_them(context, subject, hit, place, int(repeated.size), named)
    if repeated.size > MAX_NAMED:
        return
    for name, rows in named:
        yield _one_of_them(context, subject, name, rows, together if repeated.size > 1 else "")


def _all_of_them(
    context: FindingContext,
    subject: str,
    hit: NDArray[np.bool_],
    place: NDArray[np.int64],
    subjects: int,
    named: list[tuple[str, NDArray[np.int64]]],
) -> Finding:
    """All subjects with several rows, and one rule for every one of them."""
    table = context.table
    differing = [c for c in table.columns if c.name != subject and _differs_in(c, hit, place) > 0]
    ends = _outcome_differs(context, hit, place)
    ending = f" How follow-up ended differs in {grouped(ends)} of them." if ends else ""
    if differing:
        what = f"Their rows differ in {listed([c.name for c in differing], 6)}.{ending}"
    else:
        what = "Their rows are alike in all other columns."
    rules = [("first", "", "Keep the first of each"), ("last", "", "Keep the last of each")]
    for dates in [c for c in differing if isinstance(c, DateColumn)][:MAX_DATES]:
        rules += [
            ("last", dates.name, f"Keep the latest of each by {dates.name}"),
            ("first", dates.name, f"Keep the earliest of each by {dates.name}"),
        ]
    choices = [
        Choice(
            name="set aside" if (stays, along) == ("first", "") else f"{stays} {along}".strip(),
            label=label,
            done=label[:1].lower() + label[1:].replace("Keep", "kept"),
            steps=(
                SetAsideRepeats.model_validate({"key": [subject], "stays": stays, "along": along}),
            ),
        )
        for stays, along, label in rules
    ]
    shown = () if subjects <= MAX_NAMED else named[:MAX_BESIDE]
    return Finding(
        key=f"entered twice: {subject}",
        title=f"{grouped(subjects)} values of {subject} are shared by several rows",
        why=f"{what} If they are one and the same, counting all gives one course the weight of many. If a "
        "subject has several rows on purpose, say so in the sentence above.",
        rows=context.numbers(hit),
        columns=(subject,),
        choices=(*choices, KEEP_ALL),
        beside=tuple(_beside(table, subject, name, rows) for name, rows in shown),
    )


def _one_of_them(
    context: FindingContext, subject: str, name: str, rows: NDArray[np.int64], within: str
) -> Finding:
    """One subject with several rows, any of which may stay."""
    table = context.table
    numbers = table.numbers[rows]
    one = np.zeros(table.size, dtype=bool)
    one[rows] = True
    others = [c for c in table.columns if c.name != subject]
    differing = [c.name for c in others if len({c.cell(int(k)) for k in rows}) > 1]
    ends = _outcome_differs(context, one, np.zeros(table.size, dtype=np.int64))
    what = f": {listed(differing, 4)} differ" if len(differing) > 1 else ""
    what = f": {differing[0]} differs" if len(differing) == 1 else what
    ended = "How follow-up ended is not the same in them: that has to be found out." if ends else ""
    alone = "If they are one and the same, counting both gives one course the weight of two."
    first = set_aside(numbers[1:], "entered twice", f"Keep row {numbers[0]} only")
    each = [
        Choice(
            name=f"only {number}",
            label=f"Keep row {number} only",
            done=f"row {number} kept",
            steps=set_aside(numbers[numbers != number], "entered twice").steps,
        )
        for number in map(int, numbers[1:MAX_ROWS_BESIDE])
    ]
    return Finding(
        key=f"entered twice: {subject} {name}",
        title=f"{rows.size} rows share {subject} {name}{what}",
        why=ended if within else f"{alone} {ended}".rstrip(),
        rows=numbers,
        columns=(subject, *differing[: MAX_COLUMNS_BESIDE - 1]),
        choices=(first, *each, KEEP_ALL, CORRECT),
        within=within,
        beside=(_beside(table, subject, name, rows),),
    )


def _beside(table: Table, subject: str, name: str, rows: NDArray[np.int64]) -> Beside:
    """Rows of one subject, with the columns in which they differ."""
    shown = rows[:MAX_ROWS_BESIDE]
    cells = {
        c.name: tuple(c.cell(int(k)) for k in shown) for c in table.columns if c.name != subject
    }
    differing = [column for column, held in cells.items() if len(set(held)) > 1]
    columns = tuple(differing[:MAX_COLUMNS_BESIDE])
    return Beside(
        name,
        columns,
        tuple(map(int, table.numbers[shown])),
        tuple(tuple(cells[column][k] for column in columns) for k in range(shown.size)),
        len(differing) - len(columns),
    )


def _differs_in(column: Column, hit: NDArray[np.bool_], place: NDArray[np.int64]) -> int:
    """In how many groups of rows, of those that are hit, a column holds different values."""
    codes = column.codes if isinstance(column, TextColumn) else column.values
    values = np.unique(codes[hit], return_inverse=True)[1]
    return _different(values, place[hit])


def _different(values: NDArray[np.int64], groups: NDArray[np.int64]) -> int:
    pairs = np.unique(groups * (values.max(initial=0) + 1) + values)
    per_group = np.bincount(pairs // (values.max(initial=0) + 1))
    return int((per_group > 1).sum())


def _outcome_differs(
    context: FindingContext, hit: NDArray[np.bool_], place: NDArray[np.int64]
) -> int:
    """In how many groups of rows, of those that are hit, follow-up did not end alike."""
    derived = context.derived
    if derived is None or context.statement.ended != "codes":
        return 0
    return _different(derived.code_of[hit].astype(np.int64), place[hit])


def _no_subjects(context: FindingContext, subject: str, n: int) -> Finding:
    size = grouped(context.table.size)
    return Finding(
        key=f"few subjects: {subject}",
        title=f"{subject} makes {grouped(n)} subjects of {size} rows",
        why="A column that so many rows share names groups, such as centres or machines, and not those who "
        "are "
        "followed. Choose another column for the subject, or none, in the sentence above.",
        rows=context.table.numbers,
        columns=(subject,),
        choices=(KEEP,),
    )

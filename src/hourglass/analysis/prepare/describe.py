"""Describe: who is in the groups before their curves are compared."""

import math

import numpy as np
from numpy.typing import NDArray

from hourglass.analysis.prepare.distributions import Distribution, Relation, distribution, relation
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.frozen_model import FrozenModel, number
from hourglass.analysis.shared.groups import (
    MAX_GROUPS,
    as_text,
    first_of_each,
    group_by,
    is_category,
    levels_of,
)
from hourglass.cohort.followup import Cohort
from hourglass.cohort.table import Column, DateColumn, NumberColumn, TextColumn
from hourglass.core.progress import ProgressCallback, no_progress

MAX_LEVELS_LISTED = 30
LARGE_DIFFERENCE = 0.1


class DescribedGroup(FrozenModel):
    """A group with the number of its subjects, counts included."""

    label: str
    rows: int


class DescribedCell(FrozenModel):
    """A cell of the table: as shown, and its numbers at full precision."""

    text: str
    values: list[float | None]


class DescribedRow(FrozenModel):
    """A line of the table: of everyone, then of each group.

    ``difference`` is the standardised difference between two groups, or the largest between any
    two; null where it is not defined or the line is not the column's first.
    """

    column: str
    label: str
    what: str
    cells: list[DescribedCell]
    difference: float | None


class DescribeResult(FrozenModel):
    """A baseline table by groups, with the distribution of each column and its relation to follow-up."""

    by: str | None
    can_group: list[str]
    groups: list[DescribedGroup]
    rows: list[DescribedRow]
    note: str
    distributions: list[Distribution]
    relations: list[Relation]


Members = list[tuple[str, NDArray[np.int64]]]


def describe(
    cohort: Cohort, by: str | None, progress: ProgressCallback = no_progress
) -> DescribeResult:
    """Describe a cohort by the levels of a column.

    Args:
        by: the column that forms the groups; None for everyone together.
    """
    table, statement = cohort.table, cohort.statement
    able = [
        c.name
        for c in table.columns
        if c.name not in statement.spent and 2 <= len(levels_of(c)) <= MAX_GROUPS
    ]
    each = _everyone(cohort)
    groups: Members = [(formatting.capital(f"all {cohort.rows_are}"), each)]
    if by is not None and by in able:
        formed = group_by(table, by, None)
        groups += [(v, each[formed.code[each] == k]) for k, v in enumerate(formed.labels)]
    rows: list[DescribedRow] = []
    distributions, relations = [], []
    shown = [c for c in table.columns if c.name not in statement.spent and c.name != by]
    for k, column in enumerate(shown):
        progress(f"describing {column.name}", k / max(len(shown), 1))
        rows += _described(column, groups)
        if isinstance(column, NumberColumn) and not is_category(column):
            distributions.append(distribution(column, groups[1:] or groups))
        found = relation(cohort, column)
        if found is not None:
            relations.append(found)
    return DescribeResult(
        by=by if len(groups) > 1 else None,
        can_group=able,
        groups=[DescribedGroup(label=label, rows=rows_.size) for label, rows_ in groups],
        rows=rows,
        note=_note(len(groups), cohort.follow_up.subject is not None),
        distributions=distributions,
        relations=relations,
    )


def _everyone(cohort: Cohort) -> NDArray[np.int64]:
    """The row of each subject, its first where it has several; as often as it is counted."""
    data = cohort.follow_up
    rows = np.arange(data.exit.size)
    if data.subject is not None:
        in_time = np.argsort(data.exit, kind="stable")
        rows = np.sort(in_time[first_of_each(data.subject[in_time])])
    return np.repeat(rows, data.count[rows])


def _note(groups: int, several_rows: bool) -> str:
    known = "Percentages are of those with a known value."
    if several_rows:
        known = (
            "Each subject is described by its first row. Percentages are of the subjects with a known "
            "value."
        )
    if groups <= 2:
        return known
    largest = "the largest between any two groups" if groups > 3 else "between the two groups"
    return (
        f"{known} The standardised difference is "
        f"{largest}: means apart in pooled standard deviations; above {LARGE_DIFFERENCE} groups are "
        "often called unlike. It does not grow with the number of rows, as a p-value does."
    )


def _described(column: Column, groups: Members) -> list[DescribedRow]:
    if isinstance(column, NumberColumn) and is_category(column):
        column = as_text(column)
    match column:
        case NumberColumn():
            rows = _number_rows(column, groups)
        case DateColumn():
            rows = [
                _row(column, "median (earliest to latest)", [_dates(column, r) for _, r in groups])
            ]
        case TextColumn():
            rows = _level_rows(column, groups)
    gone = column.missing
    if gone.any():
        cells = [_share(int(gone[r].sum()), r.size) for _, r in groups]
        rows.append(_row(column, "missing", cells))
    return rows


def _row(
    column: Column, what: str, cells: list[DescribedCell], difference: float | None = None
) -> DescribedRow:
    unit = f", {column.unit}" if column.unit else ""
    label = f"{column.label or column.name}{unit}"
    return DescribedRow(
        column=column.name, label=label, what=what, cells=cells, difference=number(difference)
    )


def _number_rows(column: NumberColumn, groups: Members) -> list[DescribedRow]:
    values = [column.values[rows] for _, rows in groups]
    known = [v[~np.isnan(v)] for v in values]
    digits = column.decimals + 1
    means, medians = [], []
    for v in known:
        if v.size == 0:
            means.append(DescribedCell(text="none known", values=[None, None]))
            medians.append(DescribedCell(text="none known", values=[None, None, None]))
            continue
        size = float(np.abs(v).max()) or 1.0
        mean = size * float(np.mean(v / size))
        spread = size * float(np.std(v / size, ddof=1)) if v.size > 1 else math.nan
        sd = "—" if math.isnan(spread) else formatting.fixed(spread, digits)
        means.append(
            DescribedCell(
                text=f"{formatting.fixed(mean, digits)} ({sd})", values=[mean, number(spread)]
            )
        )
        q1, q2, q3 = (float(q) for q in np.quantile(v, [0.25, 0.5, 0.75]))
        lower, median, upper = (formatting.fixed(q, digits) for q in (q1, q2, q3))
        text = f"{median} ({lower}–{upper})"
        medians.append(DescribedCell(text=text, values=[q2, q1, q3]))
    pairs = [
        _standardised(known[a], known[b])
        for a in range(1, len(known))
        for b in range(a + 1, len(known))
    ]
    return [
        _row(column, "mean (SD)", means, _largest(pairs)),
        _row(column, "median (quartiles)", medians),
    ]


def _standardised(a: NDArray[np.float64], b: NDArray[np.float64]) -> float:
    """Means apart, in the root of the mean variance (Cohen 1988; Austin 2009)."""
    if a.size < 2 or b.size < 2:
        return math.nan
    size = max(float(np.abs(a).max()), float(np.abs(b).max())) or 1.0
    a, b = a / size, b / size
    pooled = math.sqrt((float(np.var(a, ddof=1)) + float(np.var(b, ddof=1))) / 2)
    apart = abs(float(a.mean() - b.mean()))
    return apart / pooled if pooled > 0 else (0.0 if apart == 0 else math.nan)


def _level_rows(column: TextColumn, groups: Members) -> list[DescribedRow]:
    counts = [
        np.bincount(column.codes[r][column.codes[r] >= 0], minlength=len(column.levels))
        for _, r in groups
    ]
    there = np.flatnonzero(counts[0])
    if there.size > MAX_LEVELS_LISTED:
        cells = [
            DescribedCell(
                text=f"{formatting.grouped(int(np.count_nonzero(c)))}",
                values=[float(np.count_nonzero(c))],
            )
            for c in counts
        ]
        return [_row(column, "different values", cells)]
    pairs = [
        _unlike(counts[a][there], counts[b][there])
        for a in range(1, len(counts))
        for b in range(a + 1, len(counts))
    ]
    return [
        _row(
            column,
            column.levels[k],
            [_share(int(c[k]), int(c.sum())) for c in counts],
            _largest(pairs) if k == there[0] else None,
        )
        for k in there
    ]


def _unlike(a: NDArray[np.int64], b: NDArray[np.int64]) -> float:
    """How far apart the shares of levels are, all levels at once (Yang & Dalton 2012)."""
    if a.sum() == 0 or b.sum() == 0:
        return math.nan
    p, q = a[1:] / a.sum(), b[1:] / b.sum()
    if p.size == 0 or np.array_equal(p, q):
        return 0.0
    covariance = (np.diag(p) - np.outer(p, p) + np.diag(q) - np.outer(q, q)) / 2
    apart = p - q
    with np.errstate(all="ignore"):
        squared = float(apart @ np.linalg.pinv(covariance, hermitian=True) @ apart)
    # A direction in which nothing varies and yet the groups differ has no finite distance.
    outside = apart - covariance @ np.linalg.pinv(covariance, hermitian=True) @ apart
    return math.sqrt(squared) if np.abs(outside).max() < 1e-9 and squared >= 0 else math.nan


def _largest(pairs: list[float]) -> float | None:
    known = [p for p in pairs if not math.isnan(p)]
    return max(known) if known and len(known) == len(pairs) else None


def _share(count: int, of: int) -> DescribedCell:
    share = count / of if of else None
    text = f"{formatting.grouped(count)}" + (
        "" if share is None else f" ({formatting.percent(share)})"
    )
    return DescribedCell(text=text, values=[float(count), None if share is None else 100 * share])


def _dates(column: DateColumn, rows: NDArray[np.int64]) -> DescribedCell:
    days = column.days[rows]
    known = np.sort(days[~np.isnan(days)])
    if known.size == 0:
        return DescribedCell(text="none known", values=[None, None, None])
    picked = [known[(known.size - 1) // 2], known[0], known[-1]]
    shown = [str(np.datetime64(math.floor(d), "D")) for d in picked]
    return DescribedCell(
        text=f"{shown[0]} ({shown[1]} to {shown[2]})", values=[float(d) for d in picked]
    )

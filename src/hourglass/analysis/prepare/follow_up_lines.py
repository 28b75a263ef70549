"""The picture of follow-up: some rows as lines from entry to end, faithfully chosen."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hourglass.analysis.shared import formatting
from hourglass.cohort.derive import Derivation, Derived
from hourglass.cohort.shape import shaped
from hourglass.cohort.statement import FollowUpStatement
from hourglass.cohort.steps.step import keys_of
from hourglass.cohort.table import Table

MAX_LINES = 56
STATUS = {"event": 1, "competing": 2, "censored": 0, "set aside": -2}


@dataclass(frozen=True, slots=True)
class FollowUpLine:
    """One row's follow-up in the picture.

    ``status`` is 1 for the event, 2 competing, 0 censored, −1 without a meaning, −2 set aside.
    """

    label: str
    start: float
    end: float
    status: int


def follow_up_lines(
    table: Table, statement: FollowUpStatement, found: Derived
) -> tuple[list[FollowUpLine], str]:
    """A sample of follow-up lines, longest first, taken at even steps of all lines in order of time.

    Where a subject may have several rows its line goes from its first entry to its last end.
    """
    if not isinstance(found, Derivation):
        return [], "Fill the marked words above to see each row's follow-up."
    made = shaped(found, statement)
    derived = made.derived
    shown = made.kept | derived.means("set aside")
    usable = np.flatnonzero(shown & np.isfinite(derived.time) & (derived.time >= 0))
    named = statement.subject if table.has(statement.subject) else None
    column = None if named is None else table.column(named)
    start = np.maximum(derived.entry, 0.0)
    what = "rows"
    if statement.several_rows and named is not None:
        usable, start = _one_each(keys_of(table, [named]), usable, derived.time, start)
        what = "subjects"
    order = usable[np.argsort(-derived.time[usable], kind="stable")]
    pick = np.unique(np.linspace(0, order.size - 1, min(MAX_LINES, order.size)).round())
    chosen = order[pick.astype(int)]
    lines = []
    for row in chosen:
        given = derived.meanings[derived.code_of[row]]
        label = column.cell(int(row)) if column is not None else f"row {table.numbers[row]}"
        lines.append(
            FollowUpLine(
                label=label,
                start=float(start[row]),
                end=float(derived.time[row]),
                status=-1 if given is None else STATUS[given.meaning],
            )
        )
    if chosen.size == order.size:
        return lines, f"All {formatting.grouped(order.size)} {what}, longest first."
    return (
        lines,
        f"{chosen.size} of {formatting.grouped(order.size)} {what}, evenly chosen from longest to shortest.",
    )


def _one_each(
    key: NDArray[np.int64],
    rows: NDArray[np.int64],
    time: NDArray[np.float64],
    start: NDArray[np.float64],
) -> tuple[NDArray[np.int64], NDArray[np.float64]]:
    """The last row of each subject, and starts (n,) moved to the subject's first."""
    order = rows[np.lexsort((time[rows], key[rows]))]
    ends = np.concatenate([key[order][1:] != key[order][:-1], [True]]) | (key[order] < 0)
    first = start.copy()
    begin = np.minimum.reduceat(start[order], np.concatenate([[0], np.flatnonzero(ends)[:-1] + 1]))
    first[order[ends]] = begin
    return order[ends], first

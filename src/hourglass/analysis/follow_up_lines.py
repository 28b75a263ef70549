"""The picture of follow-up: some rows as lines from entry to end, faithfully chosen."""

import numpy as np

from hourglass.analysis.typed import Typed
from hourglass.cohort.derive import Derivation, derive
from hourglass.cohort.shape import shaped
from hourglass.cohort.statement import FollowUpStatement
from hourglass.cohort.table import Table

MOST_LINES = 56
STATUS = {"event": 1, "competing": 2, "censored": 0, "set aside": -2}


class FollowUpLine(Typed):
    """One row's follow-up in the picture."""

    label: str
    start: float
    end: float
    status: int


def follow_up_lines(table: Table, statement: FollowUpStatement) -> tuple[list[FollowUpLine], str]:
    """A faithful sample of follow-up lines, longest first: evenly placed in order of time."""
    found = derive(table, statement)
    if not isinstance(found, Derivation):
        return [], "Fill the marked words above to see each row's follow-up."
    made = shaped(found, statement)
    derived = made.derived
    shown = made.kept | derived.means("set aside")
    usable = np.flatnonzero(shown & np.isfinite(derived.time) & (derived.time >= 0))
    order = usable[np.argsort(-derived.time[usable], kind="stable")]
    pick = np.unique(np.linspace(0, order.size - 1, min(MOST_LINES, order.size)).round())
    chosen = order[pick.astype(int)]
    named = statement.subject if table.has(statement.subject) else None
    column = None if named is None else table.column(named)
    lines = []
    for row in chosen:
        given = derived.meanings[derived.code_of[row]]
        label = column.cell(int(row)) if column is not None else f"row {table.numbers[row]}"
        lines.append(
            FollowUpLine(
                label=label,
                start=max(float(derived.entry[row]), 0.0),
                end=float(derived.time[row]),
                status=-1 if given is None else STATUS[given.meaning],
            )
        )
    if chosen.size == order.size:
        return lines, f"All {order.size:,} rows, longest first."
    return lines, f"{chosen.size} of {order.size:,} rows, evenly chosen from longest to shortest."

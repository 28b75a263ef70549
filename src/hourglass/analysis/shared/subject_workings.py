"""Who stands behind an event time: those at risk, with the event, and censored before the next."""

from dataclasses import dataclass
from typing import Annotated

import numpy as np
from pydantic import Field

from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.frozen_model import FrozenModel
from hourglass.analysis.shared.workings import (
    AnyColumn,
    NoWorkingsError,
    Opens,
    WordColumn,
    Workings,
    decimal,
    whole,
)
from hourglass.cohort.followup import Cohort
from hourglass.cohort.table import NumberColumn, TextColumn
from hourglass.core.arrays import FloatArray, IntArray
from hourglass.core.followup import FollowUp

FIGURE = "subjects"
AT_RISK, LEFT, EVENT = 0, 1, 2


class SubjectsAt(FrozenModel):
    """Those behind time ``t``: of a group, by its place, or of all."""

    t: Annotated[float, Field(ge=0, allow_inf_nan=False)]
    group: Annotated[int | None, Field(ge=0)] = None


def subjects_of(group: int | None) -> Opens:
    """What the times of a table open: the subjects of a group, or of all."""
    return Opens(FIGURE, "t", {} if group is None else {"group": group})


@dataclass(frozen=True, slots=True)
class Followed:
    """The rows of a cohort that somebody stands behind a time of.

    Attributes:
        data: their follow-up, and that of the other rows; ``event``: what its event is called.
        code: (n,) the group of each of the cohort's rows, −1 where it is in none; ``labels``: of groups.
    """

    cohort: Cohort
    data: FollowUp
    event: str
    code: IntArray
    labels: tuple[str, ...] = ("",)


def subjects_workings(followed: Followed, about: SubjectsAt) -> Workings:
    """The rows at risk at a time, first those with the event, then those who leave before the next.

    Raises:
        NoWorkingsError: when there is no such group.
    """
    cohort, code, labels = followed.cohort, followed.code, followed.labels
    if about.group is not None and about.group >= len(labels):
        raise NoWorkingsError(f"there is no group {about.group}")
    data, event, t = followed.data, followed.event, about.t
    own = code >= 0 if about.group is None else code == about.group
    there = own & (data.exit >= t)
    if data.entry is not None:
        there &= data.entry < t
    rows = np.flatnonzero(there)
    happened = data.event()
    later = data.exit[own & happened & (data.exit > t)]
    until = float(later.min()) if later.size else np.inf
    what = np.full(rows.size, AT_RISK)
    what[data.exit[rows] < until] = LEFT
    what[happened[rows] & (data.exit[rows] == t)] = EVENT
    order = np.lexsort((data.exit[rows], -what))
    rows, what = rows[order], what[order]
    count = data.count[rows]
    n, d, left = (int(count[what >= kind].sum()) for kind in (AT_RISK, EVENT, LEFT))
    named = "" if about.group is None or len(labels) == 1 else f", {labels[about.group]}"
    return Workings(
        title=f"At {formatting.stated_time(t, cohort.statement.unit)}{named}: "
        f"{formatting.grouped(n)} at risk, {formatting.grouped(d)} with {event}",
        formula=(
            "At risk: entered before this time, and left at it or later.",
            f"{formatting.grouped(n)} at risk, of whom {formatting.grouped(d)} with {event} at this time and "
            f"{formatting.grouped(left - d)} who leave without it before the next event time.",
        ),
        columns=(
            whole("row", "row", cohort.table.numbers[rows]),
            *_subject(cohort, rows),
            *([_group(code[rows], labels)] if about.group is None and len(labels) > 1 else []),
            *(
                []
                if data.entry is None
                else [decimal("entered", "entered", _entered(data.entry[rows]))]
            ),
            decimal("left", "left", data.exit[rows]),
            *([whole("count", "count", count)] if (data.count != 1).any() else []),
            _worded(cohort, rows, what, event),
        ),
        note="Rows by their number in the file; those with the event first.",
    )


def _entered(entry: FloatArray) -> FloatArray:
    return np.where(np.isfinite(entry), np.maximum(entry, 0.0), 0.0)


def _subject(cohort: Cohort, rows: IntArray) -> list[AnyColumn]:
    name = cohort.statement.subject
    if name is None or not cohort.table.has(name):
        return []
    column = cohort.table.column(name)
    if isinstance(column, TextColumn):
        return [WordColumn("subject", name, column.codes[rows], column.levels)]
    if isinstance(column, NumberColumn) and column.decimals == 0:
        return [whole("subject", name, column.values[rows].astype(np.int64))]
    _, first, place = np.unique(column.values[rows], return_index=True, return_inverse=True)
    words = tuple(column.cell(row) for row in rows[first].tolist())
    return [WordColumn("subject", name, place, words)]


def _group(code: IntArray, labels: tuple[str, ...]) -> WordColumn:
    return WordColumn("group", "group", code, labels)


def _worded(cohort: Cohort, rows: IntArray, what: IntArray, event: str) -> WordColumn:
    """What is true of each at that time, in words."""
    words = (
        "at risk",
        "censored before the next event time",
        "row ends before the next event time",
        "competing event before the next event time",
        event,
    )
    status, last = cohort.follow_up.status[rows], cohort.follow_up.last_rows[rows]
    leaves = what == LEFT
    place = np.zeros(rows.size, dtype=np.int64)
    place[leaves & (status == 0) & last] = 1
    place[leaves & (status == 0) & ~last] = 2
    place[leaves & (status > 1)] = 3
    place[what == EVENT] = 4
    return WordColumn("what", "at this time", place, words)

"""The step that turns counts at each time into rows with a count: nobody at risk is lost on the way."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from hourglass.cohort.steps.layouts import free_names, named_ends, renumbered
from hourglass.cohort.steps.step import (
    BrokenStepError,
    Done,
    RowsLeftOut,
    StepBase,
    keys_of,
    number_column,
)
from hourglass.cohort.table import NumberColumn, Table, TextColumn
from hourglass.cohort.words import grouped

ENDED, HOW_MANY = "ended", "how many"
STILL = "still at risk at the end"
"""The end of those who are at risk when the counts stop."""
UNSTATED = "no longer at risk, not tallied"
"""The end of those who are missing from one time to the next, though no count holds them."""


class SpreadCounts(StepBase):
    """One row for each time with counts of events and censorings: a row for each kind of end.

    The rows made have a column of ends ("ended") and one of counts ("how many"). Those still at
    risk after the last time get a row of their own, its count blank where no column shows it.
    """

    kind: Literal["spread_counts"] = "spread_counts"
    counts: dict[str, str] = Field(min_length=1, max_length=20)
    """The columns of counts, each with the name of the end it counts."""
    time: str = Field(default="", max_length=300)
    """The column of times; a step saved without one needs it chosen."""
    at_risk: str = Field(default="", max_length=300)
    """The column of numbers at risk, if there is one."""
    counted: Literal["before", "after"] = "before"
    """Whether those at risk are counted before the ends of a time, or after them."""
    within: tuple[str, ...] = Field(default=(), max_length=20)
    """Columns of which each combination of values has counts of its own."""

    def named(self) -> str:
        pairs = ", ".join(f"{column} as {end}" for column, end in self.counts.items())
        return f"Spread counts into rows: {pairs}"

    def on(self, table: Table) -> Done:
        taken = [number_column(table, name) for name in self.counts]
        named_ends(self.counts)
        gone = {*self.counts, *([self.at_risk] if self.at_risk else [])}
        free_names(table, {ENDED, HOW_MANY} - gone)
        if not self.time:
            raise BrokenStepError(
                "name the column of times: without it those still at risk after the last time are lost"
            )
        names = [*self.counts.values(), STILL, UNSTATED]
        numbers = np.column_stack([c.values for c in taken])
        size, kinds = table.size, len(taken)
        rest = remaining(self, table, np.nansum(numbers, axis=1))
        row = np.concatenate([np.repeat(np.arange(size), kinds), rest.last, rest.unstated_at])
        end = np.concatenate(
            [
                np.tile(np.arange(kinds, dtype=np.int64), size),
                np.full(rest.last.size, kinds),
                np.full(rest.unstated_at.size, kinds + 1),
            ]
        )
        count = np.concatenate([numbers.ravel(), rest.left, rest.unstated])
        order = np.lexsort((end, row))
        there = order[~(count[order] == 0)]
        levels = tuple(dict.fromkeys(names))
        place = np.array([levels.index(name) for name in names], dtype=np.int32)
        made = renumbered(
            [
                *(c.take(row[there]) for c in table.columns if c.name not in gone),
                TextColumn(name=ENDED, codes=place[end[there]], levels=levels),
                NumberColumn(name=HOW_MANY, values=count[there]),
            ]
        )
        empty = size - np.unique(row[there]).size
        nobody = RowsLeftOut("nobody ended then, so no row is made of them", empty)
        return Done(
            table=made,
            made=f"{grouped(made.size)} rows",
            note="; ".join(rest.notes()),
            other_layout=True,
            left_out=(nobody,) if empty else (),
        )


@dataclass(frozen=True, slots=True, kw_only=True)
class Remaining:
    """Who is at risk but in no count.

    Attributes:
        last: the row of the last time of each set of counts; ``left``: how many are at risk after
            it, NaN where that is not known.
        unstated_at: rows after which fewer are at risk than the counts show; ``unstated``: how many.
        more: rows at which more are at risk than those before left: they entered later.
        beyond: rows at which more ended than were at risk.
    """

    last: NDArray[np.int64]
    left: NDArray[np.float64]
    unstated_at: NDArray[np.int64]
    unstated: NDArray[np.float64]
    more: int
    beyond: int

    def notes(self) -> list[str]:
        """What one should know of them."""
        lines = [
            (
                int(np.isnan(self.left).sum()),
                "no column shows how many were still at risk at the end",
            ),
            (
                self.unstated_at.size,
                f"{grouped(round(self.unstated.sum()))} are missing from one time to the next",
            ),
            (
                self.more,
                f"more are at risk than before at {grouped(self.more)} times: they entered later",
            ),
            (self.beyond, f"more ended than were at risk at {grouped(self.beyond)} times"),
        ]
        return [words for n, words in lines if n]


def remaining(step: SpreadCounts, table: Table, ended: NDArray[np.float64]) -> Remaining:
    """Who is at risk but in no count, ``ended`` (n,) being how many end at each row."""
    known = None if not step.at_risk else number_column(table, step.at_risk).values
    if known is not None and step.counted == "after":
        known = known + ended
    last, left, unstated_at, unstated, more, beyond = [], [], [], [], 0, 0
    for rows in sequences(table, step.time, step.within):
        last.append(rows[-1])
        if known is None:
            left.append(np.nan)
            continue
        after = known[rows] - ended[rows]
        left.append(max(after[-1], 0.0))
        with np.errstate(invalid="ignore"):
            gap = after[:-1] - known[rows][1:]
            unstated_at += list(rows[:-1][gap > 0])
            unstated += list(gap[gap > 0])
            more += int((gap < 0).sum())
            beyond += int((after < 0).sum())
    return Remaining(
        last=np.array(last, dtype=np.int64),
        left=np.array(left, dtype=np.float64),
        unstated_at=np.array(unstated_at, dtype=np.int64),
        unstated=np.array(unstated, dtype=np.float64),
        more=more,
        beyond=beyond,
    )


def sequences(table: Table, time: str, within: tuple[str, ...]) -> Iterator[NDArray[np.int64]]:
    """The rows of each set of counts in order of time, those without a time left out."""
    times = number_column(table, time).values
    key = keys_of(table, within) if within else np.zeros(table.size, dtype=np.int64)
    order = np.lexsort((times, key))
    order = order[~np.isnan(times[order])]
    if order.size:
        yield from np.split(order, np.flatnonzero(np.diff(key[order])) + 1)

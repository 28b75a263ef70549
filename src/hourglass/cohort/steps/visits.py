"""Steps that turn visits, a row each, into rows that are followed."""

from dataclasses import replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from hourglass.cohort.derive import outcome_codes
from hourglass.cohort.steps.layouts import free_names, joined_cells, renumbered
from hourglass.cohort.steps.step import (
    BrokenStepError,
    Done,
    RowsLeftOut,
    StepBase,
    along,
    keys_of,
    new_name,
)
from hourglass.cohort.table import Table, TextColumn
from hourglass.cohort.words import grouped


class RowsBetweenVisits(StepBase):
    """Each visit but a subject's first as a row from the visit before, with what was known at that one; the
    outcome is that of the visit itself."""

    kind: Literal["rows_between_visits"] = "rows_between_visits"
    subject: str
    time: str
    outcome: str = Field(default="", max_length=300)
    into: str = Field(min_length=1, max_length=300)

    def named(self) -> str:
        return f"Rows from one visit of each {self.subject} to the next, by {self.time}"

    def on(self, table: Table) -> Done:
        order, key = _by_visit(table, self.subject, self.time)
        later = np.flatnonzero(key[order][1:] == key[order][:-1]) + 1
        visit, before = order[later], order[later - 1]
        in_file = np.argsort(visit)
        visit, before = visit[in_file], before[in_file]
        at_visit = {self.subject, self.time, self.outcome}
        rows = table.take(visit)
        for column in table.columns:
            if column.name not in at_visit:
                rows = rows.with_column(column.take(before))
        since = replace(
            table.column(self.time).take(before), name=new_name(table, self.into, ""), label=""
        )
        note = f"each {self.subject}'s first visit begins its first row and is none by itself"
        return Done(table=rows.with_column(since), made="1 column", note=note)


class StackVisits(StepBase):
    """Columns of a time and a state for each visit: a row for each visit that has a time."""

    kind: Literal["stack_visits"] = "stack_visits"
    times: tuple[str, ...] = Field(min_length=1, max_length=500)
    states: tuple[str, ...] = Field(min_length=1, max_length=500)
    time: str = Field(default="visit at", min_length=1, max_length=300)
    state: str = Field(default="state", min_length=1, max_length=300)

    def named(self) -> str:
        first, last = (f"{self.times[k]} with {self.states[k]}" for k in (0, -1))
        return f"A row for each visit: {first} to {last}"

    def on(self, table: Table) -> Done:
        if len(self.times) != len(self.states):
            raise BrokenStepError("each visit has a time and a state")
        times, states = ([table.column(n) for n in of] for of in (self.times, self.states))
        for columns in (times, states):
            if len({c.kind for c in columns}) > 1:
                raise BrokenStepError(
                    f"{columns[0].name} and the others hold different kinds of values"
                )
        pairs = {*self.times, *self.states}
        free_names(table, {self.time, self.state} - pairs)
        there = np.column_stack([~c.missing for c in times])
        row, visit = np.nonzero(there)
        place = visit * table.size + row
        every = np.ones(there.size, dtype=bool)
        made = [c.take(row) for c in table.columns if c.name not in pairs]
        for name, columns in ((self.time, times), (self.state, states)):
            made.append(joined_cells(name, columns, every, 0).take(place))
        never = int((~there.any(axis=1)).sum())
        return Done(
            table=renumbered(made),
            made=f"{grouped(row.size)} rows",
            other_layout=True,
            left_out=(RowsLeftOut("no visit has a time", never),) if never else (),
        )


class KeepOneVisit(StepBase):
    """Of each subject's visits keep the first at which something is so, else the last."""

    kind: Literal["keep_one_visit"] = "keep_one_visit"
    subject: str
    time: str
    column: str = Field(default="", max_length=300)
    values: tuple[str, ...] = Field(default=(), max_length=200)

    def named(self) -> str:
        if not self.values:
            return f"Of each {self.subject} keep the last visit, by {self.time}"
        which = " or ".join(v or "blank" for v in self.values)
        return (
            f"Of each {self.subject} keep the first visit, by {self.time}, at which {self.column} is "
            f"{which}, else the last"
        )

    def on(self, table: Table) -> Done:
        order, key = _by_visit(table, self.subject, self.time)
        own = key[order]
        last = np.append(own[1:] != own[:-1], True)
        chosen = np.zeros(table.size, dtype=bool)
        chosen[order[last]] = True
        if self.values:
            codes, code_of = outcome_codes(table.column(self.column))
            folded = {value.strip().casefold() for value in self.values}
            hit = np.array([code.strip().casefold() in folded for code in codes], dtype=bool)[
                code_of
            ]
            so = order[hit[order]]
            _, first = np.unique(key[so], return_index=True)
            chosen[np.isin(key, key[so])] = False
            chosen[so[first]] = True
        chosen |= key < 0
        return Done(table=table.take(np.flatnonzero(chosen)))


def _by_visit(table: Table, subject: str, time: str) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """(m,) the rows of subjects with a time, by subject and time; (n,) whose each row is, −1 for nobody's."""
    column = table.column(time)
    if isinstance(column, TextColumn):
        raise BrokenStepError(f"{time} holds neither numbers nor dates")
    key = keys_of(table, [subject])
    if not (key >= 0).any():
        raise BrokenStepError(f"{subject} holds nothing")
    when = along(column)
    there = np.flatnonzero((key >= 0) & ~column.missing)
    order = there[np.lexsort((when[there], key[there]))]
    return order, key

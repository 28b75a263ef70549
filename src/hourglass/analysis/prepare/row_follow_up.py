"""How the time and the end of one row arose: which cells, which rules."""

from dataclasses import dataclass
from datetime import date

import numpy as np

from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.frozen_model import FrozenModel
from hourglass.cohort.derive import NO_LATE_ENTRY, Derivation, Derived
from hourglass.cohort.shape import Shaped, shaped
from hourglass.cohort.statement import DAYS_IN, BetweenDates, Duration, FirstOf, FollowUpStatement
from hourglass.cohort.table import Column, Table

MEANS = {
    "event": "the event",
    "censored": "censored",
    "competing": "a competing event",
    "set aside": "set aside",
    None: "no meaning yet",
}


class WorkedLine(FrozenModel):
    """A line of the workings: what it is, what it comes to, and by which rule."""

    what: str
    value: str
    rule: str = ""


class RowFollowUp(FrozenModel):
    """How a row's time and end arose."""

    row: int
    time: str
    status: str
    lines: list[WorkedLine]


@dataclass(frozen=True, slots=True)
class RowTimes:
    """The times and ends of all rows, in words where they are requested."""

    derived: Derivation
    shape: Shaped
    unit: str

    def time(self, k: int) -> str:
        """The time of a row; blank where it has none."""
        return in_words(float(self.shape.derived.time[k]))

    def status(self, k: int) -> str:
        """What a row's follow-up ended with."""
        shape = self.shape.derived
        meaning = shape.meanings[int(shape.code_of[k])]
        return MEANS[None if meaning is None else meaning.meaning]


def row_times(derived: Derived, statement: FollowUpStatement) -> RowTimes | None:
    """The times of all rows; None while slots are still to be filled."""
    if not isinstance(derived, Derivation):
        return None
    return RowTimes(derived, shaped(derived, statement), statement.unit)


def row_follow_up(
    raw: Table, table: Table, statement: FollowUpStatement, times: RowTimes, k: int
) -> RowFollowUp:
    """How the time and the end of a row arose.

    Args:
        raw: the table as read; ``table``: as the steps have left it.
        times: of all rows; ``k``: the row's place in the table.
    """
    number = int(table.numbers[k])
    lines = [*_clock(table, statement, times, k), *_decided(statement, times, k)]
    lines += _end(table, statement, times, k)
    lines += _changed(raw, table, number, k)
    return RowFollowUp(
        row=number, time=f"{times.time(k)} {times.unit}", status=times.status(k), lines=lines
    )


def in_words(time: float) -> str:
    """A time with as many digits as show it, at most four after the point."""
    if not np.isfinite(time):
        return ""
    text = f"{time:.4f}".rstrip("0").rstrip(".")
    return text.replace("-", formatting.MINUS)


def _clock(table: Table, statement: FollowUpStatement, times: RowTimes, k: int) -> list[WorkedLine]:
    clock, unit = statement.clock, statement.unit
    if isinstance(clock, Duration):
        column = table.column(clock.column or "")
        return [_cell("time", column, k, f"the time in {column.name}, in {unit}")]
    start = table.column(clock.start or "")
    lines = [_cell("start", start, k, "follow-up starts there")]
    if isinstance(clock, BetweenDates):
        lines.append(_cell("end", table.column(clock.end or ""), k, "follow-up ends there"))
    else:
        lines += _earliest(table, clock, statement.closing_date, k)
    if times.derived.past_closing[k]:
        closing = str(statement.closing_date)
        lines.append(
            WorkedLine(what="closing date", value=closing, rule="nothing is counted after it")
        )
    time = float(times.derived.time[k])
    if np.isfinite(time):
        days = time * DAYS_IN[unit]
        by = formatting.plain(DAYS_IN[unit])
        rule = "end − start" if unit == "days" else f"end − start = {in_words(days)} days, / {by}"
        lines.append(WorkedLine(what="time", value=f"{in_words(time)} {unit}", rule=rule))
    return lines


def _earliest(table: Table, clock: FirstOf, closing: date | None, k: int) -> list[WorkedLine]:
    found = [
        _cell(
            event.column, table.column(event.column), k, f"if it has a date: {MEANS[event.meaning]}"
        )
        for event in clock.events
    ]
    rule = "the end where no event has a date"
    if clock.last_contact is None:
        return [*found, WorkedLine(what="closing date", value=str(closing), rule=rule)]
    contact = table.column(clock.last_contact)
    return [*found, _cell("last contact", contact, k, rule)]


def _decided(statement: FollowUpStatement, times: RowTimes, k: int) -> list[WorkedLine]:
    """What the statement's decisions do to the time."""
    before, after = float(times.derived.time[k]), float(times.shape.derived.time[k])
    lines = []
    entry = float(times.derived.entry[k])
    if entry > NO_LATE_ENTRY:
        rule = f"from {statement.late_entry}: not at risk before"
        lines.append(WorkedLine(what="under observation from", value=in_words(entry), rule=rule))
    if statement.zero_moved_to is not None and before == 0:
        rule = "rows that end at their start are given this time"
        lines.append(WorkedLine(what="zero time", value=in_words(after), rule=rule))
    elif statement.longest is not None and before > statement.longest:
        rule = "nobody is followed for longer: censored there"
        lines.append(
            WorkedLine(what="longest follow-up", value=in_words(statement.longest), rule=rule)
        )
    if statement.landmark is not None:
        rule = "the clock is set to 0 there"
        lines.append(WorkedLine(what="landmark", value=in_words(statement.landmark), rule=rule))
    if np.isfinite(after) and after != before:
        lines.append(WorkedLine(what="time analysed", value=f"{in_words(after)} {statement.unit}"))
    if not times.shape.kept[k]:
        lines.append(
            WorkedLine(what="analysed", value="no", rule="the statement leaves this row out")
        )
    return lines


def _end(table: Table, statement: FollowUpStatement, times: RowTimes, k: int) -> list[WorkedLine]:
    shape = times.shape.derived
    code = shape.codes[int(shape.code_of[k])]
    meaning = shape.meanings[int(shape.code_of[k])]
    named = "" if meaning is None or not meaning.name else f", {meaning.name}"
    text = f"{MEANS[None if meaning is None else meaning.meaning]}{named}"
    if (
        statement.ended == "codes"
        and statement.outcome is not None
        and table.has(statement.outcome)
    ):
        shown = table.column(statement.outcome).cell(k) or "blank"
        if code not in (shown, shown.strip()):
            return [
                WorkedLine(what=statement.outcome, value=shown),
                WorkedLine(what="ended", value=text, rule=code),
            ]
        return [WorkedLine(what=statement.outcome, value=shown, rule=f"{shown} is {text}")]
    return [WorkedLine(what="ended", value=text, rule=code)]


def _changed(raw: Table, table: Table, number: int, k: int) -> list[WorkedLine]:
    """Cells that steps have changed in this row."""
    at = raw.positions([number])
    if at.size == 0 or raw.size != len(raw.numbers):
        return []
    was = int(at[0])
    lines = []
    for column in table.columns:
        if not raw.has(column.name):
            continue
        before, now = raw.column(column.name).cell(was), column.cell(k)
        if before != now:
            rule = f"changed by a step; as read it was {before or 'blank'}"
            lines.append(WorkedLine(what=column.name, value=now or "missing", rule=rule))
    return lines


def _cell(what: str, column: Column, k: int, rule: str) -> WorkedLine:
    written = "" if column.as_written is None else column.as_written.cell(k)
    shown = column.cell(k)
    text = f" (file: {written})" if written and written != shown else ""
    return WorkedLine(what=what, value=(shown or "blank") + text, rule=f"{column.name}: {rule}")

"""The slots of the clock: where it starts and ends, and in which unit it runs."""

from typing import Literal

from pydantic import JsonValue

from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.sentence import Option, Slot
from hourglass.cohort.profile import profile_of
from hourglass.cohort.proposal.duration import unit_of_times
from hourglass.cohort.statement import (
    DAYS_IN,
    OTHER_UNITS,
    BetweenDates,
    Clock,
    DatedEvent,
    Duration,
    FirstOf,
    FollowUpStatement,
    Unit,
)
from hourglass.cohort.table import Column, DateColumn, NumberColumn, Table

End = Literal["start", "end", "last_contact"]
TITLES: dict[End, tuple[str, str]] = {
    "start": ("Follow-up starts at", "a date of start"),
    "end": ("Follow-up ends at", "a date of end"),
    "last_contact": ("Without an event, follow-up ends at", "the last contact"),
}


def of_kind(table: Table, kind: type[DateColumn | NumberColumn]) -> list[Column]:
    """The columns of a kind."""
    return [c for c in table.columns if isinstance(c, kind)]


def date_slot(table: Table, clock: BetweenDates | FirstOf, end: End, otherwise: str = "") -> Slot:
    """A slot for a column of dates, or for another kind of clock; ``otherwise`` stands without a column."""
    chosen = getattr(clock, end)
    options = [
        column_option(c, f"clock.{end}", c.name == chosen) for c in of_kind(table, DateColumn)
    ]
    title, nothing = TITLES[end]
    return Slot(
        id=end,
        label=chosen or otherwise or nothing,
        title=title,
        state="filled" if chosen or otherwise else "open",
        options=[*options, *_other_clocks(table, clock)],
    )


def _other_clocks(table: Table, clock: Clock) -> list[Option]:
    """Ways to another kind of clock, keeping what both have."""
    others = []
    dates = of_kind(table, DateColumn)
    start = None if isinstance(clock, Duration) else clock.start
    last = clock.end if isinstance(clock, BetweenDates) else getattr(clock, "last_contact", None)
    if dates and not isinstance(clock, BetweenDates):
        others.append(
            Option(
                label="from one date to another",
                note="the time is worked out from two dates",
                field="clock",
                value=_dumped(BetweenDates(start=start, end=last)),
            )
        )
    if dates and not isinstance(clock, FirstOf):
        others.append(
            Option(
                label="to the earliest of several events",
                note="each event has a date of its own; without one, to the last contact",
                field="clock",
                value=_dumped(FirstOf(start=start, last_contact=last)),
            )
        )
    if not isinstance(clock, Duration):
        others += [
            Option(
                label=f"{c.name}, a time already worked out",
                note=in_short(c),
                field="clock",
                value=_dumped(Duration(column=c.name)),
            )
            for c in of_kind(table, NumberColumn)
        ]
    return others


def _dumped(clock: Clock) -> JsonValue:
    dumped: JsonValue = clock.model_dump(mode="json")
    return dumped


def events_slot(table: Table, clock: FirstOf) -> Slot:
    """The dated events of a composite end: each can be added as the event, or a competing one."""
    there = {event.column: event for event in clock.events}
    options = []
    for column in of_kind(table, DateColumn):
        if column.name in (clock.start, clock.last_contact):
            continue
        if column.name in there:
            rest = tuple(e for e in clock.events if e.column != column.name)
            options.append(_events(f"without {column.name}", "leave this event out", rest, True))
            continue
        for meaning, words in (("event", ""), ("competing", ", a competing event")):
            more = DatedEvent.model_validate({"column": column.name, "meaning": meaning})
            options.append(
                _events(f"{column.name}{words}", in_short(column), (*clock.events, more), False)
            )
    named = [e.column + (" (competing)" if e.meaning == "competing" else "") for e in clock.events]
    return Slot(
        id="event",
        label=formatting.listed(named) if named else "one or more dated events",
        title="The events, of which the earliest counts",
        state="filled" if named else "open",
        options=options,
    )


def _events(label: str, note: str, events: tuple[DatedEvent, ...], chosen: bool) -> Option:
    value: JsonValue = [e.model_dump(mode="json") for e in events]
    return Option(label=label, note=note, field="clock.events", value=value, chosen=chosen)


def duration_slot(table: Table, clock: Duration) -> Slot:
    """A slot for a column of times."""
    options = [_time_option(c, clock) for c in of_kind(table, NumberColumn)]
    return Slot(
        id="duration",
        label=clock.column or "a column of times",
        title="The column that holds the time",
        state="filled" if clock.column else "open",
        options=[*options, *_other_clocks(table, clock)],
    )


def _time_option(column: Column, clock: Duration) -> Option:
    """A column of times, with the unit where its name states one."""
    assert isinstance(column, NumberColumn)
    plain = column_option(column, "clock.column", column.name == clock.column)
    unit = unit_of_times(column)
    if unit is None:
        return plain
    value: JsonValue = {"clock": _dumped(Duration(column=column.name)), "unit": unit}
    return plain.model_copy(update={"field": "", "value": value, "note": f"{plain.note} {unit}"})


def unit_slot(statement: FollowUpStatement) -> Slot:
    """The unit of time."""
    units: tuple[Unit, ...] = (*DAYS_IN, *(() if statement.dated else OTHER_UNITS))
    options = [
        Option(
            label=unit,
            note=f"1 = {formatting.plain(DAYS_IN[unit])} days"
            if statement.dated
            else "the unit the column is in",
            field="unit",
            value=unit,
            chosen=unit == statement.unit,
        )
        for unit in units
    ]
    unstated = statement.unit not in units
    return Slot(
        id="unit",
        label="a unit" if unstated else statement.unit,
        title="Unit of time",
        state="open" if unstated else "filled",
        options=options,
    )


def column_option(column: Column, field: str, chosen: bool) -> Option:
    """A column as something a slot can hold."""
    return Option(
        label=column.name, note=in_short(column), field=field, value=column.name, chosen=chosen
    )


def in_short(column: Column) -> str:
    """A column's range, or number of levels, with what is missing."""
    about = profile_of(column)
    lost = f", {formatting.grouped(about.missing)} missing" if about.missing else ""
    if about.distinct == 0:
        return "nothing in it"
    if isinstance(column, DateColumn | NumberColumn):
        return f"{about.low} to {about.high}{lost}"
    return f"{formatting.grouped(about.distinct)} levels{lost}"

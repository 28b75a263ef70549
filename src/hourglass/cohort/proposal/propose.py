"""A first follow-up statement for a new table: columns are proposed, each with its reason; what codes
mean is never assumed."""

from collections.abc import Iterable
from dataclasses import dataclass, replace
from itertools import permutations

import numpy as np

from hourglass.cohort.not_supported import inspections
from hourglass.cohort.proposal.duration import IN_ORDER, Timed, duration, entry_and_exit
from hourglass.cohort.proposal.outcome import outcome
from hourglass.cohort.proposal.reasons import LeftOpen, Reason, distinct, named
from hourglass.cohort.reading.apart import still_apart
from hourglass.cohort.reading.parted_numbers import PARTED
from hourglass.cohort.statement import (
    UNSTATED,
    BetweenDates,
    DatedEvent,
    Duration,
    FirstOf,
    FollowUpStatement,
    Unit,
)
from hourglass.cohort.table import DateColumn, NumberColumn, Table, TextColumn, once_for_each
from hourglass.cohort.units import words_of
from hourglass.cohort.visits import visits_of, wide_visits_of
from hourglass.cohort.words import grouped, share_of_rows
from hourglass.core.arrays import evenly_placed

START_WORDS = (
    "start", "begin", "enrol", "entry", "random", "diagnos", "graft", "surgery", "operat", "install",
    "admi", "baseline", "inclusion", "commission",
)  # fmt: skip
END_WORDS = (
    "end", "last", "stop", "exit", "follow", "close", "seen", "contact", "remov", "discharge",
)  # fmt: skip
BIRTH_WORDS = ("birth", "born", "dob", "geb")
EVENT_WORDS = ("death", "died", "event", "relapse", "fail", "reject", "progress")
SUBJECT_WORDS = ("id", "no", "nr", "subject", "patient", "case", "serial", "unit", "number", "name")
LOOK = 20_000
TWO_YEARS, THREE_DAYS = 730.5, 3.0


@dataclass(frozen=True, slots=True)
class Proposal:
    """A statement, the reason for each of its parts, and what stays open between several columns."""

    statement: FollowUpStatement
    reasons: tuple[Reason, ...]
    left_open: tuple[LeftOpen, ...] = ()


def propose(table: Table) -> FollowUpStatement:
    """Guess which columns hold the clock, the outcome and the subject; leave the rest open."""
    return proposal(table).statement


@once_for_each
def proposal(table: Table) -> Proposal:
    """The statement proposed for a table, with the reason for each part."""
    apart = still_apart(table, table.mended)
    if apart.size:
        return proposal(replace(table.without(map(int, apart)), mended=()))
    if any(one.about == PARTED for one in table.mended):
        # Names stand over other columns than their own until somebody decides which number is parted.
        return Proposal(FollowUpStatement(clock=Duration(), unit=UNSTATED), ())
    visits = wide_visits_of(table) or visits_of(table)
    if visits is not None and entry_and_exit(numbers_of(table)) is None:
        # Taken for a subject each, visits would make a curve of visits: the layout is chosen first.
        return Proposal(FollowUpStatement(clock=Duration(), unit=UNSTATED), ())
    if table.size > LOOK:  # a look at rows from all over it settles it
        table = table.take(evenly_placed(table.size, LOOK))
    timed = _clock(table)
    reasons = list(timed.reasons)
    subject = _subject(table)
    spent = {r.value for r in reasons} | ({subject.value} if subject else set())
    spent |= set() if timed.left_open is None else set(timed.left_open.columns)
    ended = outcome(table, spent)
    if isinstance(ended, Reason):
        reasons.append(ended)
    if subject is not None:
        reasons.append(subject)
    statement = FollowUpStatement(
        clock=timed.clock,
        unit=timed.unit,
        late_entry=next((r.value for r in reasons if r.field == "late_entry"), None),
        outcome=ended.value if isinstance(ended, Reason) else None,
        subject=subject.value if subject else None,
    )
    left_open = tuple(o for o in (timed.left_open, ended) if isinstance(o, LeftOpen))
    return Proposal(statement, tuple(reasons), left_open)


def numbers_of(table: Table) -> list[NumberColumn]:
    """The columns of numbers."""
    return [c for c in table.columns if isinstance(c, NumberColumn)]


def _clock(table: Table) -> Timed:
    refused = set(inspections(table) or ())
    dates = [c for c in table.columns if isinstance(c, DateColumn) and c.name not in refused]
    pair = _start_and_end(dates)
    if pair is not None:
        start, end, reasons = pair
        unit, why = _unit_of_dates(start, end)
        reasons.append(Reason("unit", unit, why))
        return _to_the_event(dates, start, end, unit, reasons) or Timed(
            BetweenDates(start=start.name, end=end.name), unit, tuple(reasons)
        )
    numbers = [c for c in numbers_of(table) if c.name not in refused]
    timed = duration(numbers)
    if timed is None or timed.left_open is not None:
        timed = entry_and_exit(numbers) or timed
    if timed is not None:
        return timed
    if dates and not (refused and len(dates) == 1):
        first = dates[0].name
        why = "the only column of dates" if len(dates) == 1 else "the first column of dates"
        return Timed(BetweenDates(start=first), "days", (Reason("clock.start", first, why),))
    return Timed(Duration(), UNSTATED) if numbers else Timed(BetweenDates(), "days")


def _start_and_end(dates: list[DateColumn]) -> tuple[DateColumn, DateColumn, list[Reason]] | None:
    """The pair of dates that most looks like a start and an end, by name and by order."""
    best: tuple[float, DateColumn, DateColumn, float] | None = None
    for a, b in permutations(dates[:8], 2):
        both = ~a.missing & ~b.missing
        if both.sum() < 1:
            continue
        order = float((a.microseconds[both] <= b.microseconds[both]).mean())
        if order < 0.5:
            continue
        names = (
            bool(named(a.name, START_WORDS))
            + bool(named(b.name, END_WORDS))
            - 2 * bool(named(a.name, BIRTH_WORDS))
            - 3 * bool(named(b.name, BIRTH_WORDS))
            - bool(named(a.name, END_WORDS)) * (not named(a.name, START_WORDS))
            - 0.5 * bool(named(b.name, EVENT_WORDS))
        )
        score = names + 2 * (order >= IN_ORDER) + float(both.mean())
        if best is None or score > best[0]:
            best = (score, a, b, order)
    if best is None:
        return None
    _, start, end, order = best
    before = f"it lies before {end.name} in {share_of_rows(order)} of rows"
    after = f"it lies after {start.name} in {share_of_rows(order)} of rows"
    return (
        start,
        end,
        [
            Reason("clock.start", start.name, _and_name(start.name, START_WORDS, before)),
            Reason("clock.end", end.name, _and_name(end.name, END_WORDS, after)),
        ],
    )


def _to_the_event(
    dates: list[DateColumn], start: DateColumn, end: DateColumn, unit: Unit, reasons: list[Reason]
) -> Timed | None:
    """The clock that ends at the date of an event, where some rows have one before their last contact.

    Without a last contact it is left open until when the others were followed. None where no such date
    would end a follow-up at another time than ``end`` does.
    """
    if named(end.name, EVENT_WORDS) and end.missing.any():
        alone = FirstOf(start=start.name, events=(DatedEvent(column=end.name),))
        because = (
            f"it has a date in {grouped(int((~end.missing).sum()))} rows and none in the others"
        )
        own = Reason("clock.events", end.name, because)
        return Timed(alone, unit, (reasons[0], own, *reasons[2:]))
    events = [
        c
        for c in dates
        if c not in (start, end)
        and named(c.name, EVENT_WORDS)
        and not named(c.name, BIRTH_WORDS)
        and c.missing.any()
        and _ends_otherwise(c, start, end)
    ]
    if not events or named(end.name, EVENT_WORDS):
        return None
    why = Reason("clock.last_contact", end.name, reasons[1].because)
    with_contact = (reasons[0], why, *reasons[2:])
    if len(events) > 1:
        names = tuple(c.name for c in events)
        clock = FirstOf(start=start.name, last_contact=end.name)
        return Timed(clock, unit, with_contact, LeftOpen("clock.events", names))
    (event,) = events
    clock = FirstOf(
        start=start.name, events=(DatedEvent(column=event.name),), last_contact=end.name
    )
    dated = grouped(int((~event.missing).sum()))
    because = f"the event has a date in {dated} rows, and in some of them {end.name} is another day"
    return Timed(clock, unit, (*with_contact, Reason("clock.events", event.name, because)))


def _ends_otherwise(event: DateColumn, start: DateColumn, end: DateColumn) -> bool:
    """Whether dates of an event lie after the start and, in some rows, not at the end."""
    both = ~event.missing & ~start.missing & ~end.missing
    if not both.any():
        return False
    after = float((event.days[both] >= start.days[both]).mean())
    return after >= IN_ORDER and bool((event.days[both] != end.days[both]).any())


def _and_name(name: str, words: Iterable[str], order: str) -> str:
    word = named(name, words)
    return f"its name says “{word}”, and {order}" if word else order


def _unit_of_dates(start: DateColumn, end: DateColumn) -> tuple[Unit, str]:
    days = end.days - start.days
    days = days[np.isfinite(days) & (days >= 0)]
    long = float(np.quantile(days, 0.9)) if days.size else 0.0
    if long >= TWO_YEARS:
        return "months", f"a tenth of follow-ups are longer than {long / 365.25:.1f} years"
    if long < THREE_DAYS and days.size and (days != np.floor(days)).any():
        return "hours", f"nine in ten follow-ups end within {24 * long:.0f} hours"
    return "days", "dates are counted in days where nothing speaks for another unit"


def _subject(table: Table) -> Reason | None:
    """A column in which nearly every row has a value of its own, named for it or among the first."""
    for k, column in enumerate(table.columns):
        if isinstance(column, DateColumn) or column.missing.any():
            continue
        named = any(w in SUBJECT_WORDS for w in words_of(column.name))
        able = named or k < 3 if isinstance(column, TextColumn) else named and column.decimals == 0
        if not able or distinct(column) <= 0.9 * table.size:
            continue
        if isinstance(column, TextColumn):
            return Reason("subject", column.name, "nearly every row has a value of its own in it")
        if isinstance(column, NumberColumn):
            return Reason(
                "subject", column.name, "its name says so, and every row has its own value"
            )
    return None

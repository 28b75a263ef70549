"""Findings about dates that stand in the wrong order, or stand for no date at all."""

from collections.abc import Iterator

import numpy as np

from hourglass.cohort.code_meanings import EVENT_DATES
from hourglass.cohort.findings.finding import (
    CORRECT,
    KEEP,
    Choice,
    Finding,
    FindingContext,
    count,
    set_aside,
    take_for_missing,
)
from hourglass.cohort.statement import BetweenDates, FirstOf
from hourglass.cohort.steps.moved_dates import CenturyEarlier, WholeDays, a_century_before
from hourglass.cohort.table import DateColumn

LAST_CONTACT = ("last", "contact", "seen", "follow", "fu_", "alive_on")
BIRTH = ("birth", "born", "dob", "geb")
OLDEST = 115
MIN_DATES = 8
EASTERNMOST, WESTERNMOST = 3, 8
"""Hours ahead and behind that are looked for: further ones are hours of work."""
PLACEHOLDERS = ("1900-01-01", "1899-12-30", "1899-12-31", "1970-01-01", "9999-12-31", "2099-12-31")


def date_findings(context: FindingContext) -> Iterator[Finding]:
    """Events after the last contact, dates before birth, dates that stand for none or for midnights."""
    yield from _event_after_contact(context)
    yield from _before_birth(context)
    yield from _midnights(context)
    yield from _placeholders(context)


def _event_after_contact(context: FindingContext) -> Iterator[Finding]:
    dates = [c for c in context.table.columns if isinstance(c, DateColumn)]
    clock = context.statement.clock
    last = [c for c in dates if any(w in c.name.lower() for w in LAST_CONTACT)]
    events = [c for c in dates if any(w in c.name.lower() for w in EVENT_DATES)]
    if isinstance(clock, FirstOf):
        last = [c for c in dates if c.name == clock.last_contact]
        events = [c for c in dates if c.name in {e.column for e in clock.events}]
    elif isinstance(clock, BetweenDates) and clock.end is not None:
        last = [c for c in last if c.name == clock.end] or last
    for contact in last:
        for event in events:
            if event is contact:
                continue
            with np.errstate(invalid="ignore"):
                hit = event.microseconds > contact.microseconds
            both = ~event.missing & ~contact.missing
            if not hit.any() or hit.sum() > 0.5 * both.sum():
                continue
            rows = context.numbers(hit)
            yield Finding(
                key=f"event after last contact: {event.name}",
                title=f"{event.name} lies after {contact.name} in {count(hit)}",
                why="Whoever has the event was seen when it happened: either the last contact was not "
                "brought "
                "up to date, or the date of the event is wrong. Follow-up that ends at the contact would "
                "miss the event.",
                rows=rows,
                columns=(event.name, contact.name),
                choices=(KEEP, CORRECT, set_aside(rows, "event after last contact")),
            )


def _placeholders(context: FindingContext) -> Iterator[Finding]:
    for column in context.columns:
        if not isinstance(column, DateColumn):
            continue
        days = column.values.astype("datetime64[D]")
        found = [day for day in PLACEHOLDERS if (days == np.datetime64(day)).any()]
        others = days[~column.missing & ~np.isin(days, np.array(found, dtype="datetime64[D]"))]
        if not found or others.size < 2:
            continue
        # A date within the span of the others may be a date like any other.
        low, high = others.min(), others.max()
        found = [day for day in found if not low <= np.datetime64(day) <= high]
        if not found:
            continue
        hit = np.isin(days, np.array(found, dtype="datetime64[D]"))
        yield Finding(
            key=f"placeholder: {column.name}",
            title=f"{column.name} is {' or '.join(found)} in {count(hit)}: a date, or a word for “missing”?",
            why="Programs write such days where no date is known. Taken for a date it would make a "
            "follow-up of a hundred years.",
            rows=context.numbers(hit),
            columns=(column.name,),
            choices=(take_for_missing(column.name, found), KEEP),
        )


def _before_birth(context: FindingContext) -> Iterator[Finding]:
    dates = [c for c in context.table.columns if isinstance(c, DateColumn)]
    for birth in (c for c in dates if any(word in c.name.lower() for word in BIRTH)):
        for other in dates:
            if other is birth:
                continue
            hit = other.values.astype("datetime64[us]") < birth.values.astype("datetime64[us]")
            if not hit.any():
                continue
            rows = context.numbers(hit)
            earlier = a_century_before(birth.values.astype("datetime64[us]")[hit])
            ages = (other.values.astype("datetime64[us]")[hit] - earlier) / np.timedelta64(1, "D")
            century = Choice(
                name="century earlier",
                label=f"Read {birth.name} a century earlier there",
                done="read a century earlier",
                steps=(CenturyEarlier(column=birth.name, after=other.name),),
            )
            choices = [set_aside(rows, f"{other.name} before birth"), KEEP, CORRECT]
            if (ages >= 0).all() and (ages <= OLDEST * 365.25).all():
                choices.insert(0, century)
            yield Finding(
                key=f"before birth: {other.name}",
                title=f"{other.name} lies before {birth.name} in {count(hit)}",
                why="Nobody is seen before birth: one of the two dates is wrong. A year of two digits may "
                "belong "
                "to the century before.",
                rows=rows,
                columns=(birth.name, other.name),
                choices=tuple(choices),
            )


def _midnights(context: FindingContext) -> Iterator[Finding]:
    """Times that are all at one hour, or at two that summer time sets apart: midnights of another zone."""
    for column in context.columns:
        if not isinstance(column, DateColumn) or column.values.dtype == np.dtype("datetime64[D]"):
            continue
        known = column.values[~column.missing].astype("datetime64[us]")
        into = known - known.astype("datetime64[D]")
        hours = np.unique(into // np.timedelta64(1, "h")).astype(int).tolist()
        whole = bool((into % np.timedelta64(1, "h") == np.timedelta64(0)).all())
        ahead = _ahead(hours)
        if known.size < MIN_DATES or not whole or ahead is None:
            continue
        shown = " or ".join(f"{hour:02d}:00" for hour in hours)
        early = " Each lies on the day before the one that was meant." if ahead > 0 else ""
        yield Finding(
            key=f"midnights: {column.name}",
            title=f"All times of {column.name} are {shown}",
            why=f"Midnights of a place {abs(ahead)} hours {'ahead' if ahead > 0 else 'behind'} look like "
            "this "
            f"once they are written in universal time.{early} Between two such dates the change to summer "
            "time makes an hour.",
            rows=context.numbers(~column.missing),
            columns=(column.name,),
            choices=(
                Choice(
                    name="whole days",
                    label="Take them for the days that begin then",
                    done="taken for days",
                    steps=(WholeDays(column=column.name, ahead=ahead),),
                ),
                KEEP,
            ),
        )


def _ahead(hours: list[int]) -> int | None:
    """How many hours ahead of the times as written the place is whose midnights they are, or None.

    Summer time makes two hours of them. West of the zone one hour alone leaves days and differences right.
    """
    if hours == [0, 23]:
        return 1
    if not 1 <= len(hours) <= 2 or hours[-1] - hours[0] != len(hours) - 1 or hours[0] == 0:
        return None
    if hours[0] >= 24 - EASTERNMOST:
        return 24 - hours[0]
    return -hours[0] if len(hours) == 2 and hours[1] <= WESTERNMOST else None

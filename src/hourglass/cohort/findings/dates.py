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
)
from hourglass.cohort.statement import BetweenDates, FirstOf
from hourglass.cohort.steps.cells import MarkMissing
from hourglass.cohort.table import DateColumn

LAST_CONTACT = ("last", "contact", "seen", "follow", "fu_", "alive_on")
PLACEHOLDERS = ("1900-01-01", "1899-12-30", "1899-12-31", "1970-01-01", "9999-12-31", "2099-12-31")


def date_findings(context: FindingContext) -> Iterator[Finding]:
    """Events after the last contact, and dates that stand for none."""
    yield from _event_after_contact(context)
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
                f"event after last contact: {event.name}",
                f"{event.name} lies after {contact.name} in {count(hit)}",
                "Whoever has the event was seen when it happened: either the last contact was not brought "
                "up to date, or the date of the event is wrong. Follow-up that ends at the contact would "
                "miss the event.",
                rows,
                (event.name, contact.name),
                (KEEP, CORRECT, set_aside(rows, "event after last contact")),
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
        step = MarkMissing(column=column.name, values=tuple(found))
        yield Finding(
            f"placeholder: {column.name}",
            f"{column.name} is {' or '.join(found)} in {count(hit)}: a date, or a word for “missing”?",
            "Programs write such days where no date is known. Taken for a date it would make a "
            "follow-up of a hundred years.",
            context.numbers(hit),
            (column.name,),
            (Choice("mark missing", "Take it for missing", "taken for missing", (step,)), KEEP),
        )

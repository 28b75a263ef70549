"""Findings about starts, ends and times."""

from collections.abc import Iterator

import numpy as np

from hourglass.cohort.derive import Derivation
from hourglass.cohort.findings.finding import (
    CORRECT,
    KEEP,
    Choice,
    Finding,
    FindingContext,
    count,
    set_aside,
    they,
)
from hourglass.cohort.followup import unusable
from hourglass.cohort.statement import DAYS_IN, BetweenDates, Duration, FirstOf, FollowUpStatement
from hourglass.cohort.steps.cells import FillMissing, SwapCells
from hourglass.cohort.steps.spread_counts import STILL
from hourglass.cohort.table import DateColumn
from hourglass.cohort.words import grouped, share_of_rows

HEAPED_SHARE = 0.5
ROUND_TIMES = {
    "hours": (24, 100),
    "days": (365, 30, 7),
    "weeks": (52, 4),
    "months": (12, 6),
    "years": (1,),
}


def clock_columns(statement: FollowUpStatement) -> tuple[str, ...]:
    """The columns the clock is made from."""
    match statement.clock:
        case BetweenDates(start=start, end=end):
            names: tuple[str | None, ...] = (start, end)
        case FirstOf(start=start, events=events, last_contact=last):
            names = (start, *(e.column for e in events), last)
        case Duration(column=column):
            names = (column,)
    return tuple(name for name in names if name)


def time_findings(context: FindingContext) -> Iterator[Finding]:
    """Rows without a usable time, zero times, heaped times, dates where none can be."""
    if context.derived is not None:
        yield from _unusable(context, context.derived)
        yield from _zero(context, context.derived)
        yield from _past_closing(context, context.derived)
        yield from _heaped(context, context.derived)
    yield from _future(context)


def _unusable(context: FindingContext, derived: Derivation) -> Iterator[Finding]:
    statement = context.statement
    columns = clock_columns(statement)
    dated = statement.dated
    for key, hit, what in unusable(derived, statement):
        if not hit.any():
            continue
        rows = context.numbers(hit)
        match key:
            case "end before start":
                title = (
                    they(hit, "end before they start", "ends before it starts")
                    if dated
                    else they(hit, "have a negative time", "has a negative time")
                )
                why = "A follow-up cannot end before it starts, so nobody can be at risk in these rows."
                swap: tuple[Choice, ...] = ()
                if isinstance(statement.clock, BetweenDates):
                    pair = (columns[0], columns[1])
                    steps = (SwapCells(rows=tuple(map(int, rows)), columns=pair),)
                    swap = (
                        Choice(name="swap", label="Swap dates", done="dates swapped", steps=steps),
                    )
                yield Finding(
                    key=key,
                    title=title,
                    why=why,
                    rows=rows,
                    columns=columns,
                    choices=(set_aside(rows, key), *swap, CORRECT),
                )
            case "start after closing":
                title = they(hit, f"have {what}", f"has {what}")
                title += f" date {statement.closing_date}"
                why = (
                    "Nobody can be followed who starts after the data were closed: either this start or "
                    "the closing date is wrong."
                )
                yield Finding(
                    key=key,
                    title=title,
                    why=why,
                    rows=rows,
                    columns=columns,
                    choices=(set_aside(rows, key), CORRECT),
                )
            case "no time" | "no start" | "no end":
                title = they(hit, f"have {what}", f"has {what}")
                why = "Without it there is no follow-up to analyse."
                away = set_aside(rows, "no follow-up time" if key == "no time" else key)
                goes_on = _still_followed(context) if key == "no end" else ()
                if goes_on:
                    why += (
                        " A blank end may also mean that nobody knows of one yet: such rows were followed "
                        "until the data were closed, and to leave them out shortens every curve."
                    )
                yield Finding(
                    key=key,
                    title=title,
                    why=why,
                    rows=rows,
                    columns=columns,
                    choices=(away, *goes_on, CORRECT),
                )
            case "entry after end":
                title = they(hit, "enter at or after their end", "enters at or after its end")
                why = "A row must be followed for some time between entry and end."
                shown = (statement.late_entry or "", *columns)
                away = set_aside(rows, "entry after end")
                yield Finding(
                    key=key, title=title, why=why, rows=rows, columns=shown, choices=(away, CORRECT)
                )
            case _:
                still = hit & _codes(derived, STILL)
                if still.any():
                    yield _still_at_risk(context, still)
                other = hit & ~still
                if not other.any():
                    continue
                rows = context.numbers(other)
                title = f"{statement.count} is no whole number in {count(other)}"
                why = (
                    "A count says how many identical subjects a row stands for: 0, 1, 2 and so on."
                )
                away = set_aside(rows, "no whole count")
                yield Finding(
                    key=key,
                    title=title,
                    why=why,
                    rows=rows,
                    columns=(statement.count or "",),
                    choices=(away, CORRECT),
                )


def _still_followed(context: FindingContext) -> tuple[Choice, ...]:
    """The choice that rows without an end go on: until the closing date, else the last date of the clock."""
    statement, table = context.statement, context.table
    match statement.clock:
        case BetweenDates(end=end):
            pass
        case FirstOf(last_contact=end):
            pass
        case _:
            return ()
    held = [table.column(name) for name in clock_columns(statement) if table.has(name)]
    dates = [
        c.values[~c.missing].max()
        for c in held
        if isinstance(c, DateColumn) and not c.missing.all()
    ]
    if end is None or not dates:
        return ()
    last = str(statement.closing_date or max(d.astype("datetime64[D]") for d in dates))
    step = FillMissing(column=end, value=last)
    label = f"Still followed until {last}"
    return (
        Choice(name="still followed", label=label, done=f"followed until {last}", steps=(step,)),
    )


def _codes(derived: Derivation, code: str) -> np.ndarray:
    """(n,) True where the row has this code."""
    if code not in derived.codes:
        return np.zeros(derived.time.size, dtype=bool)
    return np.asarray(derived.code_of == derived.codes.index(code))


def _still_at_risk(context: FindingContext, hit: np.ndarray) -> Finding:
    rows = context.numbers(hit)
    count_column = context.statement.count or ""
    several = f", for each of {grouped(rows.size)} sets of counts" if rows.size > 1 else ""
    return Finding(
        key="still at risk at the end",
        title=f"The counts do not state how many were at risk at the end{several}",
        why="Left out, they would make every time too short: the curve would fall to 0 at the last time. "
        f"Write their number into the column “{count_column}”; set the row aside only if nobody was left.",
        rows=rows,
        columns=(count_column, context.statement.outcome or "", *clock_columns(context.statement)),
        choices=(
            Choice(name="correct", label="Write how many …", done="corrected"),
            set_aside(rows, "nobody was left at the end", "Nobody was left"),
        ),
    )


def _zero(context: FindingContext, derived: Derivation) -> Iterator[Finding]:
    hit = derived.time == 0
    if not hit.any() or context.statement.zero_moved_to is not None:
        return
    rows = context.numbers(hit)
    yield Finding(
        key="zero time",
        title=they(hit, "end at their start", "ends at its start"),
        why="Kept, a row that ends at 0 is at risk at 0 and at no later time. It can also be moved by "
        "a stated amount, with “Add zero times” in the sentence above.",
        rows=rows,
        columns=clock_columns(context.statement),
        choices=(KEEP, set_aside(rows, "no time followed"), CORRECT),
    )


def _past_closing(context: FindingContext, derived: Derivation) -> Iterator[Finding]:
    closing = context.statement.closing_date
    lost = derived.event_past_closing & ~derived.started_late
    if lost.any():
        rows = context.numbers(lost)
        yield Finding(
            key="event after closing",
            title=they(lost, "have", "has") + f" the event after the closing date {closing}",
            why="Kept, they are censored at the closing date and their event is not counted. If the data "
            "were "
            "complete for longer, move the closing date.",
            rows=rows,
            columns=clock_columns(context.statement),
            choices=(KEEP, set_aside(rows, "event after the closing date"), CORRECT),
        )
    hit = derived.past_closing & ~lost & ~derived.started_late
    if not hit.any():
        return
    rows = context.numbers(hit)
    yield Finding(
        key="after closing",
        title=they(hit, "go on", "goes on") + f" after the closing date {closing}",
        why="Kept, their follow-up ends at the closing date and censored there; what happened "
        "later is not counted.",
        rows=rows,
        columns=clock_columns(context.statement),
        choices=(KEEP, set_aside(rows, "after the closing date"), CORRECT),
    )


def _heaped(context: FindingContext, derived: Derivation) -> Iterator[Finding]:
    events = context.events()
    if events is None:
        return
    time = derived.time[events & np.isfinite(derived.time) & (derived.time > 0)]
    if time.size < 20 or np.unique(time).size < 5:
        return
    unit = context.statement.unit
    for step in ROUND_TIMES.get(unit, ()):
        near = np.abs(time / step - np.round(time / step)) * step <= 0.5 * _resolution(unit) + 1e-9
        # A coarse clock, such as whole months, meets round times by itself.
        expected = (
            min(1.0, _resolution(unit) / step) if context.statement.dated else _expected(time, step)
        )
        if near.mean() >= HEAPED_SHARE and expected < HEAPED_SHARE / 2:
            hit = np.zeros(derived.time.size, dtype=bool)
            hit[np.flatnonzero(events & np.isfinite(derived.time) & (derived.time > 0))[near]] = (
                True
            )
            yield Finding(
                key="heaped times",
                title=f"{share_of_rows(float(near.mean()))} of event times fall on multiples of {step} "
                f"{unit}",
                why="Events are then known to have happened between two visits, not at them: a curve "
                "that drops at the visits says more about the visits than about the events.",
                rows=context.numbers(hit),
                columns=clock_columns(context.statement),
                choices=(KEEP,),
            )
            return


def _resolution(unit: str) -> float:
    """A day, in the unit; an hour where that is the unit."""
    return min(float(1 / DAYS_IN[unit]), 1.0)  # type: ignore[index]


def _expected(time: np.ndarray, step: float) -> float:
    """The share of multiples that times of this precision meet by chance."""
    gaps = np.diff(np.unique(time))
    return float(min(1.0, gaps.min() / step))


def _future(context: FindingContext) -> Iterator[Finding]:
    limit = np.datetime64(context.today, "us") + np.timedelta64(1, "D")
    for column in context.table.columns:
        if not isinstance(column, DateColumn):
            continue
        hit = column.values.astype("datetime64[us]") >= limit
        if hit.any():
            rows = context.numbers(hit)
            yield Finding(
                key=f"in the future: {column.name}",
                title=f"{column.name} lies after {context.today} in {count(hit)}",
                why="It cannot have happened yet when the file was read: a slip, a planned date, or a "
                "two-digit year read in the wrong century.",
                rows=rows,
                columns=(column.name,),
                choices=(set_aside(rows, f"{column.name} in the future"), KEEP, CORRECT),
            )

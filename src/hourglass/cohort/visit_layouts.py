"""The layouts of tables of visits: a row each, or a pair of columns each."""

from collections.abc import Iterator
from dataclasses import replace

from hourglass.cohort.layout_guess import LayoutGuess, unit_in
from hourglass.cohort.statement import BetweenDates, Duration
from hourglass.cohort.steps.apply import Step
from hourglass.cohort.steps.layouts import FirstBySubject
from hourglass.cohort.steps.step import BrokenStepError
from hourglass.cohort.steps.visits import KeepOneVisit, RowsBetweenVisits, StackVisits
from hourglass.cohort.table import DateColumn, NumberColumn, Table
from hourglass.cohort.visits import visits_of, wide_visits_of
from hourglass.cohort.words import grouped


def visits(table: Table) -> Iterator[LayoutGuess]:
    """Several rows for each subject, each a visit with its time: three ways to follow them."""
    found = visits_of(table)
    if found is None:
        return
    subject, time, state = found.subject, found.time, found.state
    reason = (
        f"{subject} has {grouped(found.subjects)} values in {grouped(table.size)} rows, "
        f"{found.rows:.1f} each on average, and {time} rises from one to the next"
    )
    column = table.column(time)
    dated = isinstance(column, DateColumn)
    since, first = f"{time} before", f"first {time}"
    start: tuple[Step, ...] = ()
    clock: dict[str, object] = Duration(column=time).model_dump()
    if dated:
        start = (FirstBySubject(subject=subject, column=time, into=first),)
        clock = BetweenDates(start=first, end=time).model_dump()
    common: tuple[tuple[str, object], ...] = (
        ("clock", clock),
        ("unit", "days" if dated else unit_in(table, time)),
        ("subject", subject),
        ("outcome", state),
        ("meanings", {}),
    )
    between = RowsBetweenVisits(subject=subject, time=time, outcome=state or "", into=since)
    yield LayoutGuess(
        "rows between visits",
        f"{reason}. A row runs from a visit to the next, with what was known at its start, and ends as the "
        "next one found",
        (*start, between),
        (*common, ("late_entry", since), ("several_rows", True)),
    )
    yield LayoutGuess(
        "the last visit",
        f"{reason}. Follow-up ends at the last one, as it was found there",
        (*start, KeepOneVisit(subject=subject, time=time)),
        common,
    )
    values = found.events or _one_of_two_digits(table, state)
    if state is not None and values:
        yield LayoutGuess(
            "the first event seen",
            f"{reason}. Follow-up ends at the first one at which {state} is {' or '.join(values)}",
            (*start, KeepOneVisit(subject=subject, time=time, column=state, values=values)),
            common,
        )


def wide_visits(table: Table) -> Iterator[LayoutGuess]:
    """A time and a state in columns of their own for each visit: rows are made of them first."""
    found = wide_visits_of(table)
    if found is None:
        return
    step = StackVisits(times=found.times, states=found.states)
    try:
        long = step.on(table).table
    except BrokenStepError:
        return
    reason = (
        f"{found.times[0]} with {found.states[0]} to {found.times[-1]} with {found.states[-1]} hold a time "
        "and a state for each visit"
    )
    for guess in visits(long):
        yield replace(guess, reason=f"{reason}. {guess.reason}", steps=(step, *guess.steps))


def _one_of_two_digits(table: Table, state: str | None) -> tuple[str, ...]:
    """1 of a column of 0 and 1: offered as what is looked for, for a person to confirm."""
    column = None if state is None else table.column(state)
    if not isinstance(column, NumberColumn):
        return ()
    held = set(column.values[~column.missing])
    return ("1",) if held == {0.0, 1.0} else ()

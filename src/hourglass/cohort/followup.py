"""From a table and a follow-up statement to a cohort, or to the reasons why not yet."""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hourglass.cohort.statement import BLANK, DAYS_IN, BetweenDates, CodeMeaning, FollowUpStatement
from hourglass.cohort.table import Column, DateColumn, NumberColumn, Table, TextColumn
from hourglass.core.followup import FollowUp, RefusedRowsError, follow_up

NO_LATE_ENTRY = -np.inf


@dataclass(frozen=True, slots=True)
class Block:
    """Something that must be decided before any later stage can show a number.

    ``slot`` names the slot of the statement, or None where rows must be decided about.
    """

    sentence: str
    slot: str | None
    rows: tuple[int, ...] = ()


@dataclass(frozen=True, slots=True)
class LedgerLine:
    """A line of the row ledger: rows lost, and why."""

    label: str
    rows: int


@dataclass(frozen=True, slots=True)
class Cohort:
    """Rows that can be analysed, with their follow-up, in the statement's unit."""

    table: Table
    follow_up: FollowUp
    statement: FollowUpStatement
    time_digits: int
    competing: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Derivation:
    """Each row's time, entry and code as the statement makes them; NaN where it cannot."""

    time: NDArray[np.float64]
    entry: NDArray[np.float64]
    codes: tuple[str, ...]
    code_of: NDArray[np.int64]

    def counts(self) -> dict[str, int]:
        """How many rows hold each code."""
        found = np.bincount(self.code_of, minlength=len(self.codes))
        return {code: int(n) for code, n in zip(self.codes, found, strict=True) if n}


def derive(table: Table, statement: FollowUpStatement) -> Derivation | tuple[Block, ...]:
    """Each row's time and code, or the slots still to be filled."""
    blocks = _unfilled(table, statement)
    if blocks:
        return blocks
    assert statement.outcome is not None
    codes, code_of = outcome_codes(table.column(statement.outcome))
    time, origin = _times(table, statement)
    return Derivation(time, _entries(table, statement, origin), codes, code_of)


def outcome_codes(column: Column) -> tuple[tuple[str, ...], NDArray[np.int64]]:
    """The distinct codes of an outcome column, trimmed, and each row's place among them."""
    if isinstance(column, TextColumn):
        texts = np.array([*(level.strip() for level in column.levels), BLANK], dtype=object)
        cells = texts[column.codes]
    elif isinstance(column, NumberColumn):
        distinct, place = np.unique(column.values, return_inverse=True)
        cells = np.array([column.written(float(v)) for v in distinct], dtype=object)[place]
    else:
        cells = np.where(column.missing, BLANK, column.values.astype(str)).astype(object)
    codes, code_of = np.unique(cells.astype(str), return_inverse=True)
    return tuple(map(str, codes)), code_of.astype(np.int64)


def form_cohort(table: Table, statement: FollowUpStatement) -> Cohort | tuple[Block, ...]:
    """The rows that can be analysed, or what must be decided first."""
    derived = derive(table, statement)
    if not isinstance(derived, Derivation):
        return derived
    counts = derived.counts()
    given = statement.meanings
    used = np.array([c not in given or given[c].meaning != "set aside" for c in derived.codes])
    kept = np.flatnonzero(used[derived.code_of])
    blocks = (
        *_unknown({c: n for c, n in counts.items() if c not in given}, statement.outcome),
        *_unusable(table, statement, derived, kept),
    )
    if blocks:
        return blocks
    competing = tuple(c for c in counts if given[c].meaning == "competing")
    status = np.array([_status(c, given.get(c), competing) for c in derived.codes], dtype=np.int64)[
        derived.code_of[kept]
    ]
    if kept.size == 0:
        return (Block("Every row has been set aside: there is nobody to follow.", None),)
    try:
        data = follow_up(derived.time[kept], status, derived.entry[kept])
    except RefusedRowsError as refused:
        numbers = table.numbers[kept]
        return tuple(
            Block(f"{_rows(r.rows.size)}: {r.reason}.", None, tuple(map(int, numbers[r.rows])))
            for r in refused.refusals
        )
    names = tuple(given[c].name or c for c in competing)
    return Cohort(table.take(kept), data, statement, _time_digits(table, statement), names)


def set_aside_by_code(table: Table, statement: FollowUpStatement) -> tuple[LedgerLine, ...]:
    """Ledger lines for the codes that mean "set aside"."""
    if not table.has(statement.outcome) or statement.outcome is None:
        return ()
    codes, code_of = outcome_codes(table.column(statement.outcome))
    counts = np.bincount(code_of, minlength=len(codes))
    return tuple(
        LedgerLine(f"{statement.outcome} is {code or 'blank'}", int(n))
        for code, n in zip(codes, counts, strict=True)
        if n and code in statement.meanings and statement.meanings[code].meaning == "set aside"
    )


def _unfilled(table: Table, statement: FollowUpStatement) -> tuple[Block, ...]:
    clock = statement.clock
    wanted: list[tuple[str, str | None, type[DateColumn | NumberColumn]]]
    if isinstance(clock, BetweenDates):
        wanted = [("start", clock.start, DateColumn), ("end", clock.end, DateColumn)]
    else:
        wanted = [("duration", clock.column, NumberColumn)]
    blocks = []
    for slot, name, kind in wanted:
        if name is None:
            blocks.append(Block(f"Choose the column that holds the {slot}.", slot))
        elif not isinstance(table.column(name), kind):
            what = "dates" if kind is DateColumn else "numbers"
            blocks.append(Block(f"{name} does not hold {what}: choose another {slot}.", slot))
    if statement.outcome is None:
        blocks.append(Block("Choose the column that says how each follow-up ended.", "outcome"))
    elif not table.has(statement.outcome):
        blocks.append(Block(f"There is no column called {statement.outcome}.", "outcome"))
    late = statement.late_entry
    if late is not None:
        dated = isinstance(clock, BetweenDates)
        if not isinstance(table.column(late), DateColumn if dated else NumberColumn):
            what = "dates" if dated else "numbers"
            blocks.append(Block(f"{late} does not hold {what} of late entry.", "late_entry"))
    return tuple(blocks)


def _times(
    table: Table, statement: FollowUpStatement
) -> tuple[NDArray[np.float64], NDArray[np.datetime64] | None]:
    clock = statement.clock
    if isinstance(clock, BetweenDates):
        start, end = table.column(clock.start or ""), table.column(clock.end or "")
        assert isinstance(start, DateColumn)
        assert isinstance(end, DateColumn)
        return _days_between(start.values, end.values) / DAYS_IN[statement.unit], start.values
    column = table.column(clock.column or "")
    assert isinstance(column, NumberColumn)
    return column.values, None


def _entries(
    table: Table, statement: FollowUpStatement, origin: NDArray[np.datetime64] | None
) -> NDArray[np.float64]:
    if statement.late_entry is None:
        return np.full(table.size, NO_LATE_ENTRY)
    column = table.column(statement.late_entry)
    if isinstance(column, DateColumn):
        assert origin is not None
        entry = _days_between(origin, column.values) / DAYS_IN[statement.unit]
    else:
        assert isinstance(column, NumberColumn)
        entry = column.values
    return np.where(column.missing, NO_LATE_ENTRY, entry)


def _days_between(
    start: NDArray[np.datetime64], end: NDArray[np.datetime64]
) -> NDArray[np.float64]:
    days = (end - start).astype("timedelta64[D]")
    return np.where(np.isnat(days), np.nan, days.astype(np.float64))


def _unusable(
    table: Table, statement: FollowUpStatement, derived: Derivation, kept: NDArray[np.int64]
) -> tuple[Block, ...]:
    time, entry = derived.time[kept], derived.entry[kept]
    dated = isinstance(statement.clock, BetweenDates)
    with np.errstate(invalid="ignore"):
        checks = [
            (np.isnan(time), "no start or end" if dated else "no time"),
            (time < 0, "an end before the start" if dated else "a negative time"),
            (
                (entry > NO_LATE_ENTRY) & (time >= 0) & (entry >= time),
                "an entry at or after the end",
            ),
        ]
    numbers = table.numbers[kept]
    return tuple(
        Block(
            f"{_rows(int(bad.sum()))} with {what}: decide about them among the findings.",
            None,
            tuple(map(int, numbers[bad])),
        )
        for bad, what in checks
        if bad.any()
    )


def _unknown(counts: dict[str, int], outcome: str | None) -> Iterator[Block]:
    """One block for a blank outcome, which is no code, and one for all codes without a meaning."""
    if BLANK in counts:
        yield Block(
            f"{outcome} is blank in {_rows(counts[BLANK])}. A blank is not taken for censored: "
            "say what it means, or decide about the rows.",
            "outcome",
        )
    codes = [f"{code} ({_rows(n)})" for code, n in counts.items() if code != BLANK]
    if codes:
        shown = codes if len(codes) <= 8 else [*codes[:7], f"{len(codes) - 7} more"]
        listed = ", ".join(shown[:-1]) + (" and " if len(shown) > 1 else "") + shown[-1]
        verb, they = ("has", "it means") if len(codes) == 1 else ("have", "they mean")
        yield Block(f"{outcome} {listed} {verb} no meaning yet: say what {they}.", "outcome")


def _status(code: str, given: CodeMeaning | None, competing: tuple[str, ...]) -> int:
    if given is None or given.meaning in ("censored", "set aside"):
        return 0
    return 1 if given.meaning == "event" else 2 + competing.index(code)


def _time_digits(table: Table, statement: FollowUpStatement) -> int:
    """Decimals that times are shown with: the precision of the data plus one."""
    if isinstance(statement.clock, BetweenDates):
        return 2 if statement.unit == "years" else 1
    column = table.column(statement.clock.column or "")
    return (column.decimals if isinstance(column, NumberColumn) else 0) + 1


def _rows(count: int) -> str:
    return "1 row" if count == 1 else f"{count:,} rows"

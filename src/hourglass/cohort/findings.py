"""Findings: what Prepare noticed in the rows. None is decided by the program."""

from collections import defaultdict
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

import numpy as np

from hourglass.cohort.followup import NO_LATE_ENTRY, Derivation, derive
from hourglass.cohort.statement import BLANK, BetweenDates, FollowUpStatement
from hourglass.cohort.steps import CorrectCell, RespellLevels, SetAside, Step, SwapCells
from hourglass.cohort.table import NumberColumn, Table, TextColumn

Choice = Literal["set aside", "keep", "swap", "correct", "respell"]
EXTREME_QUARTILE_RANGES = 2.5
"""A number further than this many interquartile ranges outside the quartiles is extreme."""
MOST_LEVELS_TO_RESPELL = 200


@dataclass(frozen=True, slots=True)
class Finding:
    """Something noticed: the rows, why it matters, and what can be done.

    Attributes:
        key: names the finding across visits: its kind and columns.
        title: a sentence with the count.
        why: why it matters.
        rows: row numbers in the file.
        columns: the columns concerned, for showing and correcting cells.
        choices: what can be decided; the program never decides.
        short: the reason a row set aside here carries in the ledger.
    """

    key: str
    title: str
    why: str
    rows: tuple[int, ...]
    columns: tuple[str, ...]
    choices: tuple[Choice, ...]
    short: str
    spelling: tuple[tuple[str, str], ...] = ()


def find(table: Table, statement: FollowUpStatement) -> tuple[Finding, ...]:
    """All findings in a table as the steps so far have left it."""
    derived = derive(table, statement)
    found: list[Finding] = []
    if isinstance(derived, Derivation):
        found += _follow_up_findings(table, statement, derived)
    found += _duplicate_subjects(table, statement)
    for column in table.columns:
        if isinstance(column, TextColumn):
            found += _spellings(table, column)
        if isinstance(column, NumberColumn):
            found += _extremes(table, column)
    found += _missing(table, statement)
    return tuple(found)


def steps_for(finding: Finding, choice: Choice, corrections: tuple[CorrectCell, ...]) -> list[Step]:
    """The steps that carry out a choice; "keep" needs none."""
    match choice:
        case "set aside":
            return [SetAside(rows=_rows_to_set_aside(finding), why=finding.short)]
        case "swap":
            return [SwapCells(rows=finding.rows, columns=(finding.columns[0], finding.columns[1]))]
        case "respell":
            return [RespellLevels(column=finding.columns[0], spelling=dict(finding.spelling))]
        case "correct":
            return list(corrections)
        case "keep":
            return []


def _rows_to_set_aside(finding: Finding) -> tuple[int, ...]:
    # Of rows entered twice the first stays.
    return finding.rows[1:] if finding.key.startswith("entered twice") else finding.rows


def _follow_up_findings(
    table: Table, statement: FollowUpStatement, derived: Derivation
) -> Iterator[Finding]:
    clock = statement.clock
    dated = isinstance(clock, BetweenDates)
    columns = (
        (clock.start or "", clock.end or "")
        if isinstance(clock, BetweenDates)
        else (clock.column or "",)
    )
    time = derived.time
    outcome = statement.outcome or ""
    with np.errstate(invalid="ignore"):
        backwards, unknown = time < 0, np.isnan(time)
        late = (derived.entry > NO_LATE_ENTRY) & (time >= 0) & (derived.entry >= time)
    if backwards.any():
        yield Finding(
            "end before start",
            _they(backwards, "end before they start", "ends before it starts")
            if dated
            else _they(backwards, "have a negative time", "has a negative time"),
            "A follow-up cannot end before it starts, so nobody can be at risk in these rows.",
            _numbers(table, backwards),
            columns,
            ("set aside", "swap", "correct") if dated else ("set aside", "correct"),
            "end before start",
        )
    if unknown.any():
        yield Finding(
            "no time",
            _they(unknown, "have no ", "has no ") + ("start or end" if dated else "time"),
            "Without it there is no follow-up to analyse.",
            _numbers(table, unknown),
            columns,
            ("set aside", "correct"),
            "no follow-up time",
        )
    if late.any():
        yield Finding(
            "entry after end",
            _they(late, "enter at or after their end", "enters at or after its end"),
            "A row must be followed for some time between entry and end.",
            _numbers(table, late),
            (statement.late_entry or "", *columns),
            ("set aside", "correct"),
            "entry after end",
        )
    blank = derived.code_of == (derived.codes.index(BLANK) if BLANK in derived.codes else -1)
    if blank.any() and BLANK not in statement.meanings:
        yield Finding(
            "blank outcome",
            f"{outcome} is blank in {_count(blank)}",
            "A blank is not taken for censored: nobody knows how these follow-ups ended. "
            "A blank can also be given a meaning in the sentence above.",
            _numbers(table, blank),
            (outcome, *columns),
            ("set aside", "correct"),
            "blank outcome",
        )


def _duplicate_subjects(table: Table, statement: FollowUpStatement) -> Iterator[Finding]:
    if statement.subject is None or not table.has(statement.subject):
        return
    column = table.column(statement.subject)
    if isinstance(column, TextColumn):
        keys = column.codes
    elif isinstance(column, NumberColumn):
        keys = np.unique(column.values, return_inverse=True)[1].astype(np.int32)
        keys[column.missing] = -1
    else:
        return
    _, first, place, count = np.unique(
        keys, return_index=True, return_inverse=True, return_counts=True
    )
    repeated = (count[place] > 1) & (keys >= 0)
    for group in np.unique(place[repeated])[:50]:
        rows = np.flatnonzero(place == group)
        name = column.cell(int(first[group]))
        yield Finding(
            f"entered twice: {statement.subject} {name}",
            f"{len(rows)} rows share {statement.subject} {name}",
            "If they are one and the same, counting both gives one course the weight of two. "
            "Setting aside keeps the first.",
            tuple(map(int, table.numbers[rows])),
            (statement.subject,),
            ("set aside", "keep", "correct"),
            "entered twice",
        )


def _spellings(table: Table, column: TextColumn) -> Iterator[Finding]:
    counts = column.counts()
    if len(counts) > MOST_LEVELS_TO_RESPELL:
        return
    families: dict[str, list[str]] = defaultdict(list)
    for level in counts:
        families[" ".join(level.split()).casefold()].append(level)
    spelling: dict[str, str] = {}
    for family in families.values():
        best = max(family, key=lambda level: counts[level])
        for level in family:
            target = " ".join(best.split())
            if level != target:
                spelling[level] = target
    if not spelling:
        return
    touched = np.isin(column.codes, [column.levels.index(level) for level in spelling])
    after = {spelling.get(level, level) for level in counts}
    yield Finding(
        f"spelled in several ways: {column.name}",
        f"{column.name} spells {len(after)} levels in {len(counts)} ways",
        "Spaces and capitals make one level look like several: "
        + "; ".join(f"“{a}” would become “{b}”" for a, b in sorted(spelling.items())[:8])
        + ".",
        _numbers(table, touched),
        (column.name,),
        ("respell", "keep"),
        "",
        tuple(sorted(spelling.items())),
    )


def _extremes(table: Table, column: NumberColumn) -> Iterator[Finding]:
    known = column.values[~column.missing]
    if np.unique(known).size < 8:
        return
    low, high = np.quantile(known, [0.25, 0.75])
    reach = EXTREME_QUARTILE_RANGES * (high - low)
    with np.errstate(invalid="ignore"):
        extreme = (column.values < low - reach) | (column.values > high + reach)
    # A long tail is a shape, not a fault.
    if reach == 0 or not extreme.any() or extreme.sum() > max(5, 0.01 * known.size):
        return
    values = ", ".join(column.cell(int(k)) for k in np.flatnonzero(extreme)[:5])
    one = extreme.sum() == 1
    yield Finding(
        f"extreme: {column.name}",
        f"{column.name} is far from the rest in {_count(extreme)}: {values}",
        f"Half of the values lie between {low:g} and {high:g}. "
        f"{'It' if one else 'They'} may be a slip of the pen, or somebody who does not belong here.",
        _numbers(table, extreme),
        (column.name,),
        ("set aside", "keep", "correct"),
        f"{column.name} {values}" if one else f"{column.name} far from the rest",
    )


def _missing(table: Table, statement: FollowUpStatement) -> Iterator[Finding]:
    # A blank in these columns says something else, and has its own finding.
    own = {statement.outcome, statement.late_entry}
    if isinstance(statement.clock, BetweenDates):
        own |= {statement.clock.start, statement.clock.end}
    else:
        own |= {statement.clock.column}
    for column in table.columns:
        gone = column.missing
        if column.name in own or not gone.any() or gone.all():
            continue
        yield Finding(
            f"missing: {column.name}",
            f"{column.name} is missing in {_count(gone)}",
            "Kept, these rows count in every curve; a comparison or a model that uses the column "
            "leaves them out and says so.",
            _numbers(table, gone),
            (column.name,),
            ("keep", "set aside"),
            f"{column.name} missing",
        )


def _numbers(table: Table, rows: np.ndarray) -> tuple[int, ...]:
    return tuple(map(int, table.numbers[rows]))


def _they(rows: np.ndarray, several: str, one: str) -> str:
    return f"{_count(rows)} {one if rows.sum() == 1 else several}"


def _count(rows: np.ndarray) -> str:
    n = int(rows.sum())
    return "1 row" if n == 1 else f"{n:,} rows"

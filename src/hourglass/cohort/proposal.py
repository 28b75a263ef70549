"""A first follow-up statement for a new table: columns are proposed, each with its reason; what codes
mean is never assumed."""

from collections.abc import Iterable
from dataclasses import dataclass
from itertools import permutations

import numpy as np

from hourglass.cohort.code_meanings import said_by_word
from hourglass.cohort.not_supported import inspections
from hourglass.cohort.profile import profile_of
from hourglass.cohort.statement import UNSTATED, BetweenDates, Duration, FollowUpStatement, Unit
from hourglass.cohort.table import (
    Column,
    DateColumn,
    NumberColumn,
    Table,
    TextColumn,
    once_for_each,
)
from hourglass.cohort.units import UNIT_WORDS, clock_unit, words_of
from hourglass.cohort.words import share_of_rows

OUTCOME_WORDS = (
    "outcome", "status", "event", "fail", "dead", "died", "death", "cens", "cnsr", "relapse", "ended",
    "end_reason", "alive", "vital", "result", "ausgang", "verstorben", "exitus", "state", "delta",
)  # fmt: skip
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
TIME_WORDS = (
    "time", "duration", "followup", "follow", "fu", "futime", "tte", "survtime", "survival", "t",
    "zeit", "temps", "lifetime", "life",
)  # fmt: skip
NOT_A_CLOCK = ("treatment", "dose", "since_last", "visit", "study_day", "cycle_no", "school")
NO_OUTCOME = (
    "sex", "gender", "geschlecht", "arm", "group", "gruppe", "treat", "drug", "dose", "therap", "centre",
    "center", "site", "side", "eye", "smok", "race", "ethnic", "region", "country", "maker", "batch",
    "type", "class", "stage", "grade",
)  # fmt: skip
"""Names of what is known at the start: two values of them are no outcome."""
ENTRY_WORDS, EXIT_WORDS = (
    ("entry", "enter", "start", "tstart", "begin"),
    ("exit", "stop", "tstop", "end"),
)
MOST_CODES = 20
LOOK = 20_000
IN_ORDER = 0.95
TWO_YEARS, THREE_DAYS = 730.5, 3.0


@dataclass(frozen=True, slots=True)
class Reason:
    """Why something is proposed: the path in the statement, the column or unit, and the reason."""

    field: str
    value: str
    because: str


@dataclass(frozen=True, slots=True)
class Proposal:
    """A statement, and the reason for each of its parts."""

    statement: FollowUpStatement
    reasons: tuple[Reason, ...]


def propose(table: Table) -> FollowUpStatement:
    """Guess which columns hold the clock, the outcome and the subject; leave the rest open."""
    return proposal(table).statement


@once_for_each
def proposal(table: Table) -> Proposal:
    """The statement proposed for a table, with the reason for each part."""
    if table.size > LOOK:  # a look at rows from all over it settles it
        table = table.take(np.unique(np.linspace(0, table.size - 1, LOOK).astype(np.int64)))
    clock, unit, reasons = _clock(table)
    subject = _subject(table)
    spent = {r.value for r in reasons} | ({subject.value} if subject else set())
    outcome = _outcome(table, spent)
    found = [*reasons, *([outcome] if outcome else []), *([subject] if subject else [])]
    statement = FollowUpStatement(
        clock=clock,
        unit=unit,
        late_entry=next((r.value for r in reasons if r.field == "late_entry"), None),
        outcome=outcome.value if outcome else None,
        subject=subject.value if subject else None,
    )
    return Proposal(statement, tuple(found))


def _named(name: str, words: Iterable[str]) -> str | None:
    """The first of some words that a name has a word beginning with."""
    own = [*words_of(name), name.lower()]
    return next((w for w in words if any(word.startswith(w) for word in own)), None)


def _clock(table: Table) -> tuple[BetweenDates | Duration, Unit, list[Reason]]:
    refused = set(inspections(table) or ())
    dates = [c for c in table.columns if isinstance(c, DateColumn) and c.name not in refused]
    pair = _start_and_end(dates)
    if pair is not None:
        start, end, reasons = pair
        unit, why = _unit_of_dates(start, end)
        clock = BetweenDates(start=start.name, end=end.name)
        return clock, unit, [*reasons, Reason("unit", unit, why)]
    numbers = [c for c in table.columns if isinstance(c, NumberColumn) and c.name not in refused]
    timed = _duration(numbers) or _entry_and_exit(numbers)
    if timed is not None:
        return timed
    if dates and not (refused and len(dates) == 1):
        first = dates[0].name
        why = "the only column of dates" if len(dates) == 1 else "the first column of dates"
        return BetweenDates(start=first), "days", [Reason("clock.start", first, why)]
    return (BetweenDates() if not numbers else Duration()), UNSTATED if numbers else "days", []


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
            bool(_named(a.name, START_WORDS))
            + bool(_named(b.name, END_WORDS))
            - 2 * bool(_named(a.name, BIRTH_WORDS))
            - 3 * bool(_named(b.name, BIRTH_WORDS))
            - bool(_named(a.name, END_WORDS)) * (not _named(a.name, START_WORDS))
            - 0.5 * bool(_named(b.name, EVENT_WORDS))
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


def _and_name(name: str, words: Iterable[str], order: str) -> str:
    word = _named(name, words)
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


def _duration(numbers: list[NumberColumn]) -> tuple[Duration, Unit, list[Reason]] | None:
    """A column that names a unit, or says that it is a time."""
    rated: list[tuple[int, NumberColumn, Unit, str]] = []
    for column in numbers:
        words = words_of(column.name)
        if _named(column.name, NOT_A_CLOCK) or _distinct(column) < 2:
            continue
        unit = clock_unit(column.name)
        if column.unit and column.unit in UNIT_WORDS.values():
            unit = column.unit  # type: ignore[assignment]
        timed = any(w in TIME_WORDS for w in words) or column.name.lower() in TIME_WORDS
        if unit:
            sure = timed or len(words) == 1 or words[-1] in UNIT_WORDS
            rating = 3 if timed else 2 if sure else 1
            rated.append((rating, column, unit, f"its name says “{column.name}”"))
        elif timed:
            rated.append((1, column, UNSTATED, "its name says that it is a time, but not its unit"))
        elif words[:1] == ["age"] and _named(
            column.name, ("age at", "age_at", "agefail", "agedeath")
        ):
            rated.append((0, column, "years", "an age at the end of follow-up counts from birth"))
    if not rated:
        ages = [c for c in numbers if words_of(c.name) == ["age"]]
        others = [c for c in numbers if _distinct(c) > min(MOST_CODES, c.values.size / 2)]
        if len(ages) == 1 and others == ages:
            rated.append((0, ages[0], "years", "the only number that could be a time, from birth"))
    if not rated:
        return None
    _, column, unit, why = max(rated, key=lambda r: r[0])
    reasons = [Reason("clock.column", column.name, why)]
    if unit != UNSTATED:
        reasons.append(Reason("unit", unit, f"from the name of {column.name}"))
    return Duration(column=column.name), unit, reasons


def _entry_and_exit(numbers: list[NumberColumn]) -> tuple[Duration, Unit, list[Reason]] | None:
    """Two numbers of which one says when a row enters and the other when it leaves."""
    for entry in (c for c in numbers if _named(c.name, ENTRY_WORDS)):
        for leave in (c for c in numbers if c is not entry and _named(c.name, EXIT_WORDS)):
            both = ~entry.missing & ~leave.missing
            if not both.any():
                continue
            order = float((entry.values[both] <= leave.values[both]).mean())
            if order < IN_ORDER:
                continue
            said = f"in {share_of_rows(order)} of rows {entry.name} comes before {leave.name}"
            reasons = [
                Reason("clock.column", leave.name, f"its name says that a row leaves then; {said}"),
                Reason("late_entry", entry.name, f"its name says that a row enters then; {said}"),
            ]
            return Duration(column=leave.name), UNSTATED, reasons
    return None


def _outcome(table: Table, spent: set[str]) -> Reason | None:
    """A column named for an outcome, or the only one with two values that could be it."""
    able = [c for c in table.columns if c.name not in spent and _codes(c)]
    for word in OUTCOME_WORDS:
        for column in able:
            if _named(column.name, (word,)):
                return Reason("outcome", column.name, f"its name says “{word}”")
    worded = [c for c in able if isinstance(c, TextColumn) and _says_how_it_ended(c)]
    if len(worded) == 1:
        shown = ", ".join(list(worded[0].counts())[:4])
        return Reason("outcome", worded[0].name, f"its words say how follow-up ended: {shown}")
    two = [c for c in able if _distinct(c) == 2 and not _named(c.name, NO_OUTCOME)]
    if len(two) == 1:
        return Reason("outcome", two[0].name, "the only column with two values")
    digits = [c for c in two if isinstance(c, NumberColumn)]
    if len(digits) == 1:
        return Reason("outcome", digits[0].name, "the only number with two values")
    return None


def could_be_outcome(table: Table, spent: Iterable[str]) -> bool:
    """Whether any column could hold codes of an outcome."""
    own = set(spent)
    return any(
        _codes(c) and not _named(c.name, NO_OUTCOME) for c in table.columns if c.name not in own
    )


def _says_how_it_ended(column: TextColumn) -> bool:
    said = {said_by_word(column.name, level) for level in column.counts()}
    plain = {"yes", "no", "y", "n", "true", "false", "ja", "nein", "oui", "non"}
    words = {level.strip().casefold() for level in column.counts()}
    return {"event", "censored"} <= said and not words <= plain


def _codes(column: Column) -> bool:
    """Whether a column could hold codes of an outcome."""
    if isinstance(column, TextColumn):
        return 2 <= _distinct(column) <= MOST_CODES
    if not isinstance(column, NumberColumn) or column.decimals > 0:
        return False
    return 2 <= _distinct(column) <= MOST_CODES


def _distinct(column: Column) -> int:
    return profile_of(column).distinct


def _subject(table: Table) -> Reason | None:
    """A column in which nearly every row has a value of its own, named for it or among the first."""
    for k, column in enumerate(table.columns):
        if isinstance(column, DateColumn) or column.missing.any():
            continue
        own = _distinct(column) > 0.9 * table.size
        named = any(w in SUBJECT_WORDS for w in words_of(column.name))
        if isinstance(column, TextColumn) and own and (named or k < 3):
            return Reason("subject", column.name, "nearly every row has a value of its own in it")
        if isinstance(column, NumberColumn) and own and named and column.decimals == 0:
            return Reason(
                "subject", column.name, "its name says so, and every row has its own value"
            )
    return None

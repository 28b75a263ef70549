"""Which column of numbers holds the time: a word for it first, a unit second, and none by itself."""

from dataclasses import dataclass
from enum import IntEnum

import numpy as np

from hourglass.cohort.proposal.reasons import LeftOpen, Reason, distinct, has_word, named
from hourglass.cohort.statement import UNSTATED, BetweenDates, Duration, FirstOf, Unit
from hourglass.cohort.table import NumberColumn
from hourglass.cohort.units import IN_DAYS, UNIT_WORDS, clock_unit, words_of
from hourglass.cohort.words import share_of_rows

TIME_WORDS = (
    "time", "duration", "followup", "follow", "fu", "futime", "tte", "survtime", "survival", "t",
    "zeit", "temps", "lifetime", "life", "os", "pfs", "dfs", "efs", "rfs", "ttp", "ttf", "tiempo",
    "beobachtungszeit", "lebensdauer", "laufzeit", "standzeit", "überlebenszeit", "suivi", "survie",
    "tdeath", "tevent", "stime", "ftime", "etime",
)  # fmt: skip
TOGETHER = (("follow", "up"), ("run",), ("survived",), ("until",), ("to", "event"), ("to", "death"))
NOT_A_CLOCK = ("treatment", "dose", "since_last", "visit", "study_day", "cycle_no", "school")
RATES = (
    "per", "rate", "speed", "pro", "par", "hourly", "daily", "weekly", "monthly", "yearly", "frequency",
    "velocity",
)  # fmt: skip
STAYS = (
    "icu", "itu", "los", "stay", "ward", "hospital", "hosp", "inpatient", "ventilator", "ventilation",
    "vent", "intensive", "liegedauer", "liegetage", "aufenthalt", "séjour", "sick", "leave",
)  # fmt: skip
AMOUNTS = (
    "dose", "dosis", "mg", "distance", "commute", "education", "schooling", "experience", "pack", "smoked",
    "smoking", "exposure", "tenure", "interval",
)  # fmt: skip
AGES = ("age", "alter", "âge", "edad", "ages")
AGE_AT_THE_END = (
    "age at death", "age_at_death", "age at failure", "age_at_failure", "age at event", "age_at_event",
    "age at end", "age_at_end", "age at exit", "age_at_exit", "age at last", "age_at_last", "agefail",
    "agedeath", "age_death", "age_end", "age_exit",
)  # fmt: skip
ENTRY_WORDS, EXIT_WORDS = (
    ("entry", "enter", "start", "tstart", "begin"),
    ("exit", "stop", "tstop", "end"),
)
IN_ORDER = 0.95
SAME = 0.02
"""Two columns whose ratio varies by no more than this share hold one time in two units."""


class Speaks(IntEnum):
    """How much of a column's name speaks for the time."""

    AGE_AT_THE_END = 0
    A_UNIT_BESIDE_OTHER_WORDS = 1
    A_UNIT = 2
    A_TIME = 3
    A_TIME_WITH_ITS_UNIT = 4


@dataclass(frozen=True, slots=True)
class Candidate:
    """A column that may hold the time, in a unit."""

    column: NumberColumn
    speaks: Speaks
    unit: Unit
    because: str


@dataclass(frozen=True, slots=True)
class Timed:
    """The clock that is proposed, or the columns it is left open between."""

    clock: BetweenDates | FirstOf | Duration
    unit: Unit
    reasons: tuple[Reason, ...] = ()
    left_open: LeftOpen | None = None


def duration(numbers: list[NumberColumn]) -> Timed | None:
    """The column that is named as a time, or for a unit alone; None where none is."""
    candidates = [found for c in numbers if (found := _candidate(c)) is not None]
    if not candidates:
        return None
    most = max(c.speaks for c in candidates)
    best = _one_for_each_time([c for c in candidates if c.speaks == most])
    if len(best) > 1:
        names = tuple(c.column.name for c in best)
        return Timed(Duration(), UNSTATED, (), LeftOpen("clock.column", names))
    (one,) = best
    reasons = [Reason("clock.column", one.column.name, one.because)]
    if one.unit != UNSTATED:
        reasons.append(Reason("unit", one.unit, f"from the name of {one.column.name}"))
    return Timed(Duration(column=one.column.name), one.unit, tuple(reasons))


def unit_of_times(column: NumberColumn) -> Unit | None:
    """The unit that a column, or else its name or its label, states for its times."""
    stated = clock_unit(column.unit) if column.unit else None
    return stated or clock_unit(column.name) or clock_unit(column.label)


def never_a_time(name: str) -> bool:
    """Whether a name is that of a rate, a dose, a stay or another amount, however it ends."""
    if named(name, NOT_A_CLOCK) or has_word(name, RATES) or has_word(name, STAYS):
        return True
    return has_word(name, AMOUNTS) and not is_timed(name)


def _candidate(column: NumberColumn) -> Candidate | None:
    name, words = column.name, words_of(column.name)
    if never_a_time(name):
        return None
    if has_word(name, AGES):
        if not named(name, AGE_AT_THE_END):
            return None
        why = "an age at the end of follow-up counts from birth"
        return Candidate(column, Speaks.AGE_AT_THE_END, "years", why)
    unit = unit_of_times(column)
    timed = is_timed(name)
    if (unit is None and not timed) or distinct(column) < 2:
        return None
    if timed:
        if unit is None:
            why = "its name says that it is a time, but not its unit"
            return Candidate(column, Speaks.A_TIME, UNSTATED, why)
        return Candidate(column, Speaks.A_TIME_WITH_ITS_UNIT, unit, f"its name says “{name}”")
    assert unit is not None
    alone = all(word in UNIT_WORDS for word in words)
    speaks = Speaks.A_UNIT if alone else Speaks.A_UNIT_BESIDE_OTHER_WORDS
    return Candidate(column, speaks, unit, f"its name says “{name}”")


def is_timed(name: str) -> bool:
    """Whether a name has a word for a time, or words that come to one."""
    words = words_of(name)
    if has_word(name, TIME_WORDS):
        return True
    return any(
        words[k : k + len(some)] == some
        for some in TOGETHER
        for k in range(len(words) - len(some) + 1)
    )


def _one_for_each_time(candidates: list[Candidate]) -> list[Candidate]:
    """Candidates without those that hold the time of another in a coarser unit."""
    by_size = sorted(candidates, key=lambda c: IN_DAYS.get(c.unit, np.inf))
    found: list[Candidate] = []
    for one in by_size:
        if not any(_same_time(one, other) for other in found):
            found.append(one)
    return [c for c in candidates if c in found]


def _same_time(coarse: Candidate, fine: Candidate) -> bool:
    """Whether two columns hold the same time in two units."""
    if coarse.unit not in IN_DAYS or fine.unit not in IN_DAYS or coarse.unit == fine.unit:
        return False
    a, b = coarse.column.values, fine.column.values
    both = np.isfinite(a) & np.isfinite(b)
    if not both.any():
        return False
    size = IN_DAYS[coarse.unit] / IN_DAYS[fine.unit]
    apart = np.abs(a[both] * size - b[both])
    return bool((apart <= SAME * b[both] + size * 10.0**-coarse.column.decimals).all())


def entry_and_exit(numbers: list[NumberColumn]) -> Timed | None:
    """Two numbers: when a row enters, and when it leaves."""
    for entry in (c for c in numbers if named(c.name, ENTRY_WORDS)):
        for leave in (c for c in numbers if c is not entry and named(c.name, EXIT_WORDS)):
            both = ~entry.missing & ~leave.missing
            if not both.any():
                continue
            order = float((entry.values[both] <= leave.values[both]).mean())
            if order < IN_ORDER:
                continue
            rows = f"in {share_of_rows(order)} of rows {entry.name} comes before {leave.name}"
            unit = clock_unit(leave.name) or UNSTATED
            reasons = [
                Reason("clock.column", leave.name, f"its name says that a row leaves then; {rows}"),
                Reason("late_entry", entry.name, f"its name says that a row enters then; {rows}"),
            ]
            if unit != UNSTATED:
                reasons.append(Reason("unit", unit, f"from the name of {leave.name}"))
            return Timed(Duration(column=leave.name), unit, tuple(reasons))
    return None

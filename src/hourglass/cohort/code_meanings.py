"""What the codes of an outcome probably mean, and what speaks for it; for a person to confirm.

A word can speak for itself. A digit cannot: 1 is the event in one file and the censoring in the
next, so only another column can speak for it.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from hourglass.cohort.derive import folded_codes
from hourglass.cohort.statement import BLANK, FollowUpStatement
from hourglass.cohort.table import Column, DateColumn, Table, TextColumn
from hourglass.cohort.words import grouped

Probable = Literal["event", "censored"]
CHANCE = 0.001
"""Evidence that chance would give more often than this is none."""
MAX_LABELS, MAX_LABELS_A_CODE = 200, 6
EVENT_DATES = (
    "death", "died", "event", "fail", "relapse", "rejection", "removed", "dod", "deceas", "recur", "progress",
    "explant", "todes", "sterbe", "verstorben", "exitus", "deces", "décès", "rezidiv",
)  # fmt: skip
MEANS_EVENT = (
    "dead", "died", "death", "deceased", "event", "yes", "true", "failed", "failure", "relapse",
    "relapsed", "burnt out", "rejected", "rejection", "tot", "ja", "oui", "y", "verstorben", "gestorben",
    "décédé", "decede", "mort", "fallecido",
)  # fmt: skip
MEANS_CENSORED = (
    "alive", "censored", "no", "false", "lost", "lost to follow-up", "withdrawn", "withdrew", "ok",
    "running", "no event", "event-free", "lebt", "nein", "non", "n", "still working", "moved away", "living",
    "lebend", "vivant", "vivo", "survived", "in operation", "still running", "intact",
)  # fmt: skip
BEGINS_WITH_EVENT = (
    "died",
    "dead",
    "death",
    "deceased",
    "relapse",
    "fail",
    "reject",
    "burnt",
    "broke",
)
BEGINS_WITH_CENSORED = (
    "alive",
    "censored",
    "lost",
    "withdr",
    "still",
    "no event",
    "living",
    "moved",
)
"""How labels beside a code begin, such as "died of pneumonia"; in codes themselves too little evidence."""
MEANS_EITHER = ("yes", "no", "true", "false", "y", "n", "ja", "nein")
NAMED_FOR_CENSORING = ("cens", "cnsr", "alive", "lost", "running")


@dataclass(frozen=True, slots=True)
class ProbableMeaning:
    """What a code probably means, and what speaks for it."""

    meaning: Probable
    because: str


def probable_meanings(table: Table, statement: FollowUpStatement) -> dict[str, ProbableMeaning]:
    """The codes of the statement's outcome that something speaks for."""
    if statement.ended != "codes" or not table.has(statement.outcome):
        return {}
    outcome = table.column(statement.outcome or "")
    codes, code_of, _ = folded_codes(outcome)
    if is_digits(codes):
        return dict(_by_other_columns(table, statement, codes, code_of))
    found = {code: meaning_of_word(outcome.name, code) for code in codes}
    return {
        code: ProbableMeaning(meaning, "by the words alone")
        for code, meaning in found.items()
        if meaning is not None
    }


def meaning_of_word(column: str, code: str) -> Probable | None:
    """What a code means by the word for it; a digit has none.

    In a column that is named for censoring, yes and no change places.
    """
    word = code.strip().casefold()
    if word not in MEANS_EVENT and word not in MEANS_CENSORED:
        return None
    event = word in MEANS_EVENT
    if word in MEANS_EITHER and any(w in column.lower() for w in NAMED_FOR_CENSORING):
        event = not event
    return "event" if event else "censored"


def is_digits(codes: tuple[str, ...]) -> bool:
    """Whether an outcome is coded in digits."""
    known = [code for code in codes if code != BLANK]
    return bool(known) and all(code.lstrip("+-").replace(".", "", 1).isdigit() for code in known)


def dated_with_one_code(
    table: Table, spent: frozenset[str], codes: tuple[str, ...], code_of: NDArray[np.int64]
) -> Iterator[tuple[DateColumn, int]]:
    """Columns named for an event, none of ``spent``, whose dates stand with one code only, more than
    chance would."""
    for column in table.columns:
        if not isinstance(column, DateColumn) or column.name in spent:
            continue
        if not dates_an_event(column):
            continue
        there = ~column.missing
        with_code = np.bincount(code_of[there], minlength=len(codes))
        for k in np.flatnonzero(with_code):
            rows = int((code_of == k).sum())
            alone = with_code[k] == there.sum() and with_code[k] > rows / 2
            if alone and (rows / code_of.size) ** int(with_code[k]) < CHANCE:
                yield column, int(k)


def stands_with_dates(table: Table, column: Column) -> str | None:
    """The column of an event's dates that stand with one code of a column only; None where none do."""
    if not any(isinstance(c, DateColumn) and dates_an_event(c) for c in table.columns):
        return None
    codes, code_of, _ = folded_codes(column)
    return next((d.name for d, _ in dated_with_one_code(table, frozenset(), codes, code_of)), None)


def dates_an_event(column: DateColumn) -> bool:
    """Whether a column of dates is named for an event."""
    return any(word in column.name.lower() for word in EVENT_DATES)


def _by_other_columns(
    table: Table, statement: FollowUpStatement, codes: tuple[str, ...], code_of: NDArray[np.int64]
) -> Iterator[tuple[str, ProbableMeaning]]:
    for column in table.columns:
        labels = _labels(column, codes, code_of) if column.name not in statement.spent else {}
        found = {code: _meanings_of_labels(column.name, own) for code, own in labels.items()}
        if {"event", "censored"} <= set(found.values()):
            for code, meaning in found.items():
                if meaning is not None:
                    because = (
                        f"{column.name} says {' or '.join(labels[code][:3])} wherever it stands"
                    )
                    yield code, ProbableMeaning(meaning, because)
            return
    known = [code for code in codes if code != BLANK]
    for dates, k in dated_with_one_code(table, statement.spent, codes, code_of):
        because = (
            f"{dates.name} has a date in {grouped(int((~dates.missing).sum()))} rows, all of "
            f"them {codes[k]}"
        )
        yield codes[k], ProbableMeaning("event", because)
        for other in known:
            if other != codes[k] and len(known) == 2:
                yield other, ProbableMeaning("censored", because)
        return


def _labels(
    column: Column, codes: tuple[str, ...], code_of: NDArray[np.int64]
) -> dict[str, list[str]]:
    """The levels that go with each code, in a column of which each level goes with one code only."""
    if not isinstance(column, TextColumn) or len(column.levels) > MAX_LABELS:
        return {}
    levels, level_of, _ = folded_codes(column)
    if not 2 <= len(levels) <= MAX_LABELS_A_CODE * len(codes):
        return {}
    pairs = [divmod(int(pair), len(levels)) for pair in np.unique(code_of * len(levels) + level_of)]
    known = [(codes[c], levels[v]) for c, v in pairs if codes[c] != BLANK and levels[v] != BLANK]
    if len({label for _, label in known}) < len(known):
        return {}
    found: dict[str, list[str]] = {}
    for code, label in known:
        found.setdefault(code, []).append(label)
    return found


def _meanings_of_labels(column: str, labels: list[str]) -> Probable | None:
    """The meaning of all labels beside a code; None where they do not agree, or one has none."""
    found = {_meaning_of_label(column, label) for label in labels}
    return found.pop() if len(found) == 1 else None


def _meaning_of_label(column: str, label: str) -> Probable | None:
    word = label.strip().casefold()
    if word.startswith(BEGINS_WITH_EVENT):
        return "event"
    if word.startswith(BEGINS_WITH_CENSORED):
        return "censored"
    return meaning_of_word(column, label)

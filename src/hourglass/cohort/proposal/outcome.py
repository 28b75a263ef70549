"""Which column states how follow-up ended: by its name, its words or the dates beside it, never because no
other is left."""

from collections.abc import Iterable
from enum import IntEnum

import numpy as np

from hourglass.cohort.code_meanings import meaning_of_word, stands_with_dates
from hourglass.cohort.proposal.reasons import LeftOpen, Reason, distinct, has_word, named
from hourglass.cohort.table import Column, DateColumn, NumberColumn, Table, TextColumn
from hourglass.cohort.units import words_of

ENDINGS = (
    "outcome", "end_reason", "ended", "cens", "cnsr", "alive", "vital", "ausgang", "delta", "fate",
    "how it ended", "how_it_ended",
)  # fmt: skip
STATES = ("status", "state", "statut", "estado")
"""Words that state how it ended only where nothing states what else they are the status of."""
EVENTS = (
    "event", "fail", "dead", "died", "death", "relapse", "verstorben", "exitus", "decease", "recur",
    "progress", "evenement", "événement", "ereignis", "rezidiv", "tod", "broke", "burnt", "burst", "reject",
    "ruptur", "explant", "defect", "ausfall", "panne", "décès", "deces", "muerte", "fallec",
)  # fmt: skip
EVENT_NAMES = ("ev", "evt")
RESULTS = ("result", "end")
KNOWN_AT_START = (
    "sex", "gender", "geschlecht", "arm", "group", "gruppe", "treat", "drug", "dose", "therap", "centre",
    "center", "site", "side", "eye", "smok", "race", "ethnic", "region", "country", "maker", "batch",
    "type", "class", "stage", "grade", "marital", "married", "employ", "insur", "ecog", "perform",
    "karnofsky", "nodal", "node", "receptor", "mutation", "menopaus", "social", "economic", "vaccin",
    "immun", "nutrition", "fasting", "licen", "education", "birth",
)  # fmt: skip
"""Names of what is known at the start begin so."""
KNOWN_WORDS = ("her", "er", "pr", "hiv", "ps", "asa", "ses")
EARLIER = ("previous", "prior", "baseline", "before", "family", "history", "screening")
"""With these words even an event is one before follow-up began."""
MAX_CODES, MAX_MARK_CHARACTERS = 20, 4


class Speaks(IntEnum):
    """How much speaks for an outcome."""

    ITS_NAME_MAY = 0
    NAMED_AFTER_ITS_EVENT = 1
    ITS_NAME = 2
    ITS_WORDS = 3
    DATES_BESIDE_IT = 4


def outcome(table: Table, spent: set[str]) -> Reason | LeftOpen | None:
    """The column that most speaks for, the columns that speak alike, or None where nothing does."""
    able = [c for c in table.columns if c.name not in spent and _codes(c)]
    found = [(speaks, c, why) for c in able for speaks, why in [_evidence(table, c)] if why]
    if not found:
        return None
    most = max(speaks for speaks, _, _ in found)
    best = [(c, why) for speaks, c, why in found if speaks == most]
    if len(best) > 1 and most in (Speaks.ITS_NAME, Speaks.NAMED_AFTER_ITS_EVENT):
        best = _plainest(best)
    if len(best) > 1:
        return LeftOpen("outcome", tuple(c.name for c, _ in best))
    ((column, why),) = best
    return Reason("outcome", column.name, why)


def could_be_outcome(table: Table, spent: Iterable[str]) -> bool:
    """Whether any column could hold codes of an outcome."""
    own = set(spent)
    return any(
        _codes(c) and not _known_at_start(c.name) for c in table.columns if c.name not in own
    )


def _evidence(table: Table, column: Column) -> tuple[Speaks, str]:
    """Evidence that a column is the outcome, with the reason in words; blank where there is none."""
    name = column.name
    if named(name, EARLIER):
        return Speaks.ITS_NAME_MAY, ""
    word = named(name, ENDINGS) or (None if _known_at_start(name) else named(name, STATES))
    event = named(name, EVENTS) or (name if has_word(name, EVENT_NAMES) else None)
    if not (word or event) and _known_at_start(name):
        return Speaks.ITS_NAME_MAY, ""
    dates = stands_with_dates(table, column)
    if dates is not None:
        return Speaks.DATES_BESIDE_IT, f"{dates} has a date with one of its codes only"
    if isinstance(column, TextColumn) and _states_how_it_ended(column):
        shown = ", ".join(list(column.counts())[:4])
        return Speaks.ITS_WORDS, f"its words say how follow-up ended: {shown}"
    if word:
        return Speaks.ITS_NAME, f"its name says “{word}”"
    if event:
        return Speaks.NAMED_AFTER_ITS_EVENT, f"its name says “{event}”"
    if has_word(name, RESULTS):
        return Speaks.ITS_NAME_MAY, f"its name says “{name}”"
    return Speaks.ITS_NAME_MAY, ""


def _known_at_start(name: str) -> bool:
    return bool(named(name, KNOWN_AT_START)) or has_word(name, KNOWN_WORDS)


def _plainest(found: list[tuple[Column, str]]) -> list[tuple[Column, str]]:
    """Of names that state it alike, those of a single word: "status" before "smear status"."""
    plain = [one for one in found if len(words_of(one[0].name)) == 1]
    return plain or found


def _states_how_it_ended(column: TextColumn) -> bool:
    meanings = {meaning_of_word(column.name, level) for level in column.counts()}
    plain = {"yes", "no", "y", "n", "true", "false", "ja", "nein", "oui", "non"}
    words = {level.strip().casefold() for level in column.counts()}
    return {"event", "censored"} <= meanings and not words <= plain


def _crosses(column: Column) -> bool:
    """Whether a column named for an event holds one mark in some rows and nothing in the others."""
    if isinstance(column, DateColumn) or not column.missing.any():
        return False
    if not named(column.name, (*EVENTS, *ENDINGS, *STATES)) or distinct(column) != 1:
        return False
    held = next(cell for k in np.flatnonzero(~column.missing) if (cell := column.cell(int(k))))
    return len(held) <= MAX_MARK_CHARACTERS


def _codes(column: Column) -> bool:
    """Whether a column could hold codes of an outcome."""
    if _crosses(column):
        return True
    if isinstance(column, TextColumn):
        return 2 <= distinct(column) <= MAX_CODES
    if not isinstance(column, NumberColumn) or column.decimals > 0:
        return False
    return 2 <= distinct(column) <= MAX_CODES

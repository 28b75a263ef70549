"""What a further table is taken for at first: whose its rows are, when they were, and why."""

from dataclasses import dataclass

import numpy as np

from hourglass.cohort.records.keys import key_column, matched
from hourglass.cohort.records.statement import RecordTable
from hourglass.cohort.statement import FollowUpStatement
from hourglass.cohort.steps.step import keys_of
from hourglass.cohort.table import DateColumn, NumberColumn, Table
from hourglass.cohort.words import grouped

START_WORDS = ("from", "start", "begin", "on")
END_WORDS = ("to", "until", "end", "stop", "off")
TIME_WORDS = ("time", "week", "day", "month", "year", "at", "visit")


@dataclass(frozen=True, slots=True)
class ProposedTable:
    """A first statement of a further table, with a reason for each part."""

    stated: RecordTable
    reasons: tuple[str, ...]


def proposed(
    name: str, table: Table, follow_up: Table, statement: FollowUpStatement
) -> ProposedTable:
    """How a further table is likely to be read; what nothing speaks for stays open.

    Args:
        follow_up: the table of follow-up after its steps.
    """
    reasons = []
    key, shared = _key(table, follow_up, statement.subject)
    if key is not None:
        reasons.append(
            f"{key} holds {grouped(shared)} of the keys in {statement.subject}: rows are joined by it."
        )
    times = [c.name for c in table.columns if _is_time(c, statement.dated) and c.name != key]
    start = next((c for c in times if _named(c, START_WORDS)), None)
    end = next((c for c in times if c != start and _named(c, END_WORDS)), None)
    if start is not None and end is not None:
        reasons.append(f"{start} and {end} are a start and an end: each row is a period.")
        stated = RecordTable(name=name, role="periods", key=key, at=start, until=end)
        return ProposedTable(stated, tuple(reasons))
    at = next((c for c in times if statement.dated or _named(c, TIME_WORDS)), None)
    if at is not None:
        kind = "dates" if statement.dated else "times"
        reasons.append(f"{at} holds {kind}: each row is a dated record.")
    return ProposedTable(RecordTable(name=name, key=key, at=at), tuple(reasons))


def _key(table: Table, follow_up: Table, subject: str | None) -> tuple[str | None, int]:
    """The column that holds most of the subjects' keys, and how many it holds."""
    if subject is None or not follow_up.has(subject) or not key_column(follow_up.column(subject)):
        return None, 0
    code = keys_of(follow_up, [subject])
    _, first = np.unique(code[code >= 0], return_index=True)
    known = follow_up.column(subject).take(np.flatnonzero(code >= 0)[first])
    best: tuple[str | None, int] = (None, 0)
    for column in table.columns:
        if key_column(column):
            place = matched(known, column).place
            held = int(np.unique(place[place >= 0]).size)
            if held > best[1] or (held == best[1] and held and column.name == subject):
                best = (column.name, held)
    return best


def _is_time(column: object, dated: bool) -> bool:
    return isinstance(column, DateColumn if dated else NumberColumn)


def _named(name: str, words: tuple[str, ...]) -> bool:
    parts = name.lower().replace("_", " ").split()
    return any(part.startswith(word) for part in parts for word in words)

"""A first follow-up statement for a new table: columns are proposed, meanings never assumed."""

from typing import Literal

from hourglass.cohort.statement import BetweenDates, Duration, FollowUpStatement, Unit
from hourglass.cohort.table import DateColumn, NumberColumn, Table, TextColumn

OUTCOME_WORDS = (
    "outcome", "status", "event", "fail", "dead", "died", "death", "cens", "cnsr", "relapse",
    "ended", "end_reason", "alive",
)  # fmt: skip
START_WORDS = ("start", "begin", "enrol", "entry", "random", "diagnos", "graft", "surgery", "birth")
END_WORDS = ("end", "last", "stop", "exit", "follow", "close", "seen", "contact")
TIME_WORDS: dict[str, Unit] = {
    "hour": "hours",
    "day": "days",
    "week": "weeks",
    "month": "months",
    "year": "years",
    "time": "months",
    "duration": "months",
    "followup": "months",
    "follow_up": "months",
}
SAYS_EVENT = (
    "dead", "died", "death", "deceased", "event", "yes", "true", "failed", "failure", "relapse",
    "relapsed", "burnt out", "rejected", "rejection", "tot", "ja", "oui", "y",
)  # fmt: skip
SAYS_CENSORED = (
    "alive", "censored", "no", "false", "lost", "lost to follow-up", "withdrawn", "withdrew", "ok",
    "running", "no event", "event-free", "lebt", "nein", "non", "n", "still working", "moved away",
)  # fmt: skip


def propose(table: Table) -> FollowUpStatement:
    """Guess which columns hold the clock, the outcome and the subject; leave the rest open."""
    dates = [c.name for c in table.columns if isinstance(c, DateColumn)]
    numbers = [c.name for c in table.columns if isinstance(c, NumberColumn)]
    named = [(n, u) for n in numbers for word, u in TIME_WORDS.items() if word in n.lower()]
    if len(dates) >= 2:
        start = _by_word(dates, START_WORDS) or dates[0]
        rest = [d for d in dates if d != start]
        end = _by_word(rest, END_WORDS) or rest[0]
        clock: BetweenDates | Duration = BetweenDates(start=start, end=end)
        unit: Unit = "months"
    elif named:
        clock, unit = Duration(column=named[0][0]), named[0][1]
    elif dates or not numbers:
        clock, unit = BetweenDates(start=dates[0] if dates else None), "months"
    else:
        clock, unit = Duration(), "months"
    return FollowUpStatement(
        clock=clock,
        unit=unit,
        outcome=_by_word([c.name for c in table.columns if _few_values(c)], OUTCOME_WORDS),
        subject=_subject(table),
    )


def proposed_meaning(column: str, code: str) -> Literal["event", "censored"] | None:
    """What a code probably means, by the words for it; for a person to confirm, never applied.

    A column that is named for censoring has its 1 for censored, any other its 1 for the event.
    """
    word = code.strip().casefold()
    if word in SAYS_EVENT or word in SAYS_CENSORED:
        event = word in SAYS_EVENT
    elif word in ("0", "1"):
        event = word == "1"
    else:
        return None
    plain = word in ("0", "1", "yes", "no", "true", "false", "y", "n", "ja", "nein")
    about = column.lower()
    if plain and any(w in about for w in ("cens", "cnsr", "alive", "lost", "running")):
        event = not event
    return "event" if event else "censored"


def _few_values(column: object) -> bool:
    if isinstance(column, TextColumn):
        return len(column.levels) <= 20
    return isinstance(column, NumberColumn) and column.decimals == 0


def _subject(table: Table) -> str | None:
    """The first text column in which nearly every row has a value of its own."""
    for column in table.columns[:3]:
        if isinstance(column, TextColumn) and len(column.levels) > 0.9 * table.size:
            return column.name
    return None


def _by_word(names: list[str], words: tuple[str, ...]) -> str | None:
    return next((n for word in words for n in names if word in n.lower()), None)

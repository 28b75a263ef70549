"""A first follow-up statement for a new table: columns are proposed, meanings never assumed."""

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

"""Claims about follow-up: when it began and ended, what the event was, who was at risk when."""

from hourglass.analysis.shared import wording
from hourglass.analysis.shared.naming import UNNAMED_EVENT
from hourglass.cohort.statement import BLANK, BetweenDates, Duration, FirstOf
from hourglass.report.claims.claim import Claim, Claimed
from hourglass.report.findings import Findings


def _subjects(found: Findings) -> str:
    return wording.capital(found.cohort.rows_are)


def _named(found: Findings, column: str | None) -> str:
    """What a column is called: its label, where it has one."""
    return next(
        (c.label for c in found.prepare.columns if c.name == column and c.label), column or ""
    )


def _time(found: Findings) -> Claimed | None:
    stated = found.follow_up
    match stated.clock:
        case BetweenDates(start=start, end=end):
            words = f"from {_named(found, start)} to {_named(found, end)}, in {stated.unit}"
        case FirstOf(start=start, events=events, last_contact=last):
            earliest = wording.listed([f"{e.name} ({_named(found, e.column)})" for e in events])
            rest = _named(found, last) if last else "the closing date"
            words = (
                f"from {_named(found, start)} to the earliest of {earliest}, otherwise to {rest}, in "
                f"{stated.unit}"
            )
        case Duration(column=column):
            words = f"for the time in {_named(found, column)}, in {stated.unit}"
    return Claimed(f"{_subjects(found)} were followed {words}")


def _event(found: Findings) -> Claimed | None:
    stated, event = found.follow_up, found.cohort.event_name
    named = "The event" if event == UNNAMED_EVENT else f"The event, {event},"
    if isinstance(stated.clock, FirstOf):
        return None
    if stated.ended == "everyone":
        return Claimed(f"{named} was taken to have occurred in all {found.cohort.rows_are}")
    if stated.ended == "date":
        date = _named(found, stated.event_date)
        return Claimed(
            f"{named} was taken from its date in {date}; without a date follow-up was censored"
        )
    return Claimed(f"{named} was coded {_codes(found, 'event')} in {_named(found, stated.outcome)}")


def _codes(found: Findings, meaning: str) -> str:
    """The codes that mean one thing, a blank in words."""
    stated = found.follow_up.meanings.items()
    codes = [code for code, given in stated if given.meaning == meaning]
    return wording.listed(["a blank" if code == BLANK else f"“{code}”" for code in codes], "or")


def _censored(found: Findings) -> Claimed | None:
    codes = _codes(found, "censored")
    if not codes or found.follow_up.ended != "codes" or isinstance(found.follow_up.clock, FirstOf):
        return None
    return Claimed(f"Follow-up that ended with {codes} was censored")


def _competing(found: Findings) -> Claimed | None:
    stated = found.follow_up
    names = [
        f"{given.name} (“{code}”)" if given.name else f"“{code}”"
        for code, given in stated.meanings.items()
        if given.meaning == "competing"
    ]
    if not names or not found.cohort.competing:
        return None
    were = "was a competing event" if len(names) == 1 else "were competing events"
    return Claimed(f"{wording.capital(wording.listed(names))} {were}")


def _delayed_entry(found: Findings) -> Claimed | None:
    stated = found.follow_up
    if stated.late_entry is None:
        return None
    since = _named(found, stated.late_entry)
    return Claimed(f"{_subjects(found)} were at risk only from {since} on (delayed entry)")


def _several_rows(found: Findings) -> Claimed | None:
    if not found.follow_up.several_rows:
        return None
    known = _named(found, found.follow_up.subject)
    return Claimed(f"Several rows of a subject, known by {known}, were taken as successive periods")


def _count(found: Findings) -> Claimed | None:
    if found.follow_up.count is None:
        return None
    return Claimed(
        f"Each row was weighted by {_named(found, found.follow_up.count)} (frequency weights)"
    )


def _closing(found: Findings) -> Claimed | None:
    closing = found.follow_up.closing_date
    return None if closing is None else Claimed(f"Follow-up was closed on {closing:%-d %B %Y}")


def _administrative(found: Findings) -> Claimed | None:
    words = "Follow-up was censored administratively at {}"
    return _at(found, found.follow_up.longest, words)


def _zero(found: Findings) -> Claimed | None:
    return _at(found, found.follow_up.zero_moved_to, "Times of 0 were set to {}")


def _landmark(found: Findings) -> Claimed | None:
    words = "at risk at the landmark of {} were analysed, their time counted from it"
    claimed = _at(found, found.follow_up.landmark, words)
    return claimed and Claimed(f"Only {found.cohort.rows_are} {claimed.words}")


def _at(found: Findings, time: float | None, words: str) -> Claimed | None:
    """A claim with a stated time in its place; None where there is no time."""
    if time is None:
        return None
    return Claimed(words.format(f"{wording.plain(time)} {found.follow_up.unit}"))


CLAIMS = (
    Claim("time", _time),
    Claim("event", _event),
    Claim("censored", _censored),
    Claim("competing events", _competing),
    Claim("delayed entry", _delayed_entry),
    Claim("several rows", _several_rows),
    Claim("frequency weights", _count),
    Claim("closing date", _closing),
    Claim("administrative censoring", _administrative),
    Claim("times of 0", _zero),
    Claim("landmark", _landmark),
)

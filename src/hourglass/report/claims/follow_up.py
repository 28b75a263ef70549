"""Claims about follow-up: when it began and ended, what the event was, who was at risk when."""

from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.naming import UNNAMED_EVENT
from hourglass.cohort.records.covariate import BaseCovariate
from hourglass.cohort.records.forms import COVARIATE_FORMS
from hourglass.cohort.statement import BLANK, BetweenDates, Duration, FirstOf
from hourglass.report.claims.claim import METHODS, Claim, Claimed
from hourglass.report.inputs import ReportInputs
from hourglass.report.sentences import worded
from hourglass.study.actions.action import PREPARE


def _subjects(found: ReportInputs) -> str:
    return formatting.capital(found.cohort.rows_are)


def _named(found: ReportInputs, column: str | None) -> str:
    """What a column is called: its label, where it has one."""
    return next(
        (c.label for c in found.prepare.columns if c.name == column and c.label), column or ""
    )


def _time(found: ReportInputs) -> Claimed | None:
    stated = found.follow_up
    who = {"Subjects": _subjects(found), "unit": stated.unit}
    match stated.clock:
        case BetweenDates(start=start, end=end):
            words = worded(
                METHODS, "between dates", start=_named(found, start), end=_named(found, end), **who
            )
        case FirstOf(start=start, events=events, last_contact=last):
            earliest = formatting.listed([f"{e.name} ({_named(found, e.column)})" for e in events])
            rest = _named(found, last) if last else "the closing date"
            words = worded(
                METHODS,
                "earliest date",
                start=_named(found, start),
                events=earliest,
                rest=rest,
                **who,
            )
        case Duration(column=column):
            words = worded(METHODS, "duration", column=_named(found, column), **who)
    return Claimed(words)


def _event(found: ReportInputs) -> Claimed | None:
    stated, event = found.follow_up, found.cohort.event_name
    named = "The event" if event == UNNAMED_EVENT else f"The event, {event},"
    if isinstance(stated.clock, FirstOf):
        return None
    if stated.ended == "everyone":
        return Claimed(worded(METHODS, "event in all", Event=named, subjects=found.cohort.rows_are))
    if stated.ended == "date":
        date = _named(found, stated.event_date)
        return Claimed(worded(METHODS, "event by date", Event=named, column=date))
    if stated.ended == "records":
        return None
    column = _named(found, stated.outcome)
    codes = _codes(found, "event")
    return Claimed(worded(METHODS, "event by code", Event=named, codes=codes, column=column))


def _codes(found: ReportInputs, meaning: str) -> str:
    """The codes that mean one thing, a blank in words."""
    stated = found.follow_up.meanings.items()
    codes = [code for code, given in stated if given.meaning == meaning]
    return formatting.listed(["a blank" if code == BLANK else f"“{code}”" for code in codes], "or")


def _censored(found: ReportInputs) -> Claimed | None:
    codes = _codes(found, "censored")
    if not codes or found.follow_up.ended != "codes" or isinstance(found.follow_up.clock, FirstOf):
        return None
    return Claimed(worded(METHODS, "censored", codes=codes))


def _competing(found: ReportInputs) -> Claimed | None:
    stated = found.follow_up
    names = [
        f"{given.name} (“{code}”)" if given.name else f"“{code}”"
        for code, given in stated.meanings.items()
        if given.meaning == "competing"
    ]
    if not names or not found.cohort.competing:
        return None
    which = "competing event" if len(names) == 1 else "competing events"
    return Claimed(worded(METHODS, which, Names=formatting.capital(formatting.listed(names))))


def _delayed_entry(found: ReportInputs) -> Claimed | None:
    stated = found.follow_up
    if stated.late_entry is None:
        return None
    since = _named(found, stated.late_entry)
    return Claimed(worded(METHODS, "delayed entry", Subjects=_subjects(found), column=since))


def _several_rows(found: ReportInputs) -> Claimed | None:
    if not found.follow_up.several_rows:
        return None
    known = _named(found, found.follow_up.subject)
    return Claimed(worded(METHODS, "several rows", column=known))


def _count(found: ReportInputs) -> Claimed | None:
    if found.follow_up.count is None:
        return None
    column = _named(found, found.follow_up.count)
    return Claimed(worded(METHODS, "frequency weights", column=column))


def _closing(found: ReportInputs) -> Claimed | None:
    closing = found.follow_up.closing_date
    if closing is None:
        return None
    return Claimed(worded(METHODS, "closing date", day=f"{closing:%-d %B %Y}"))


def _administrative(found: ReportInputs) -> Claimed | None:
    return _at(found, found.follow_up.longest, "administrative censoring")


def _zero(found: ReportInputs) -> Claimed | None:
    return _at(found, found.follow_up.zero_moved_to, "times of 0")


def _landmark(found: ReportInputs) -> Claimed | None:
    return _at(found, found.follow_up.landmark, "landmark")


def _further_tables(found: ReportInputs) -> Claimed | None:
    """What was made of each further table."""
    rows = {counts.name: counts.rows for counts in found.joined}
    sentences = []
    for table in found.tables:
        made = [_covariate(one) for one in table.covariates]
        if made:
            period = table.role == "periods"
            words = worded(
                METHODS,
                "further period table" if period else "further table",
                table=table.name,
                rows=formatting.grouped(rows.get(table.name, 0)),
                key=table.key or "",
                at=table.at or "",
                made=formatting.listed(made),
                were="was" if len(made) == 1 else "were",
                **({"until": table.until or ""} if period else {}),
            )
            sentences.append(words)
    return Claimed(". ".join(sentences)) if sentences else None


def _logged(found: ReportInputs) -> Claimed | None:
    """Which records ended follow-up."""
    every = [(table, one) for table in found.tables for one in table.outcomes]
    if not every:
        return None
    kinds = [
        f"{one.name} ({one.condition.named()} in {table.name}"
        f"{', a competing event' if one.meaning == 'competing' else ''})"
        for table, one in every
    ]
    return Claimed(
        worded(
            METHODS,
            "event by record",
            kinds=formatting.listed(kinds),
            subjects=found.cohort.rows_are,
        )
    )


def _covariate(one: BaseCovariate) -> str:
    """A covariate with what it is, in brackets."""
    label = next(form.label for form in COVARIATE_FORMS if form.kind == one.kind)
    return f"{one.into} ({label} of {one.of_column})" if one.of_column else f"{one.into} ({label})"


def _parted(found: ReportInputs) -> Claimed | None:
    names = [one.into for table in found.tables for one in table.covariates if one.changes]
    if not names:
        return None
    return Claimed(worded(METHODS, "parted rows", names=formatting.listed(names)))


def _at(found: ReportInputs, time: float | None, name: str) -> Claimed | None:
    """A claim with a stated time in its place; None where there is no time."""
    if time is None:
        return None
    shown = formatting.stated_time(time, found.follow_up.unit)
    return Claimed(worded(METHODS, name, time=shown, subjects=found.cohort.rows_are))


CLAIMS = (
    Claim("time", _time, (PREPARE,)),
    Claim("event", _event, (PREPARE,)),
    Claim("censored", _censored, (PREPARE,)),
    Claim("competing events", _competing, (PREPARE,)),
    Claim("delayed entry", _delayed_entry, (PREPARE,)),
    Claim("several rows", _several_rows, (PREPARE,)),
    Claim("frequency weights", _count, (PREPARE,)),
    Claim("closing date", _closing, (PREPARE,)),
    Claim("administrative censoring", _administrative, (PREPARE,)),
    Claim("times of 0", _zero, (PREPARE,)),
    Claim("landmark", _landmark, (PREPARE,)),
    Claim("event by record", _logged, (PREPARE,)),
    Claim("further tables", _further_tables, (PREPARE,)),
    Claim("parted rows", _parted, (PREPARE,)),
)

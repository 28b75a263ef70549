"""The follow-up statement as a sentence: from which date to which, and what each code means."""

from hourglass.analysis.prepare.outcome_slots import event_name, outcome_parts, typed_slot
from hourglass.analysis.prepare.time_slots import (
    column_option,
    date_slot,
    duration_slot,
    events_slot,
    of_kind,
    unit_slot,
)
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.sentence import Entry, Option, Sentence, Slot, sentence
from hourglass.cohort.profile import all_whole
from hourglass.cohort.statement import (
    BetweenDates,
    Duration,
    FirstOf,
    FollowUpStatement,
    OtherFollowUp,
)
from hourglass.cohort.table import Column, DateColumn, NumberColumn, Table, TextColumn
from hourglass.core.near_ties import CLOSE, NEAR_TIE

NEAR_TIES_WORDS = {
    0.0: ("nothing", "times that differ in their last digit are two times"),
    NEAR_TIE: ("rounding, 1e-13 of their size", "the usual: 0.1 + 0.2 and 0.3 are one time"),
    CLOSE: ("1e-9 of their size", "for years as decimals, or day numbers with clock times"),
}
"""How each tolerance is shown: its label, and what it would do."""


def follow_up_sentence(table: Table, statement: FollowUpStatement) -> Sentence:
    """The statement with a slot for everything that can be chosen."""
    clock = statement.clock
    parts: list[str | Slot] = [
        "Follow ",
        typed_slot("rows_are", "What the subjects are called, in the plural", statement),
    ]
    match clock:
        case BetweenDates():
            parts += [
                " from ",
                date_slot(table, clock, "start"),
                " to ",
                date_slot(table, clock, "end"),
            ]
        case FirstOf():
            parts += [" from ", date_slot(table, clock, "start"), " to the earliest of "]
            parts += [events_slot(table, clock), ", else to "]
            closed = "" if statement.closing_date is None else "the closing date"
            parts += [date_slot(table, clock, "last_contact", closed)]
        case _:
            parts += [" for the time in ", duration_slot(table, clock), ", measured"]
    parts += [" in " if isinstance(clock, Duration) else ", in ", unit_slot(statement), ". "]
    parts += outcome_parts(table, statement)
    if isinstance(clock, FirstOf):
        parts += ["The event is called ", event_name(statement), ". "]
    return sentence(*parts, *_optional_parts(table, statement))


def _optional_parts(table: Table, statement: FollowUpStatement) -> list[str | Slot]:
    parts = _subject_parts(table, statement)
    kind = DateColumn if statement.dated else NumberColumn
    parts += _optional(
        "late_entry",
        statement.late_entry,
        "delayed entry",
        [
            column_option(c, "late_entry", c.name == statement.late_entry)
            for c in of_kind(table, kind)
        ],
        "Under observation only from",
    )
    parts += _optional(
        "count",
        statement.count,
        "counts",
        [
            column_option(c, "count", c.name == statement.count)
            for c in of_kind(table, NumberColumn)
        ],
        "Each row stands for as many as",
    )
    unit = statement.unit
    if statement.dated:
        closing = "" if statement.closing_date is None else statement.closing_date.isoformat()
        parts += _entered(
            "closing_date", closing, "closing date", "Nothing is counted after", "date"
        )
    for field, name, title in (
        ("zero_moved_to", "times of 0", "Rows that end at their start are followed for"),
        ("longest", "administrative censoring", "Nobody is followed for longer than"),
        (
            "landmark",
            "landmark",
            "Only those still followed are counted, with the clock set to 0, at",
        ),
    ):
        value = getattr(statement, field)
        shown = "" if value is None else formatting.plain(value)
        parts += _entered(field, shown, name, title, "number", f" {unit}")
    return [*parts, *_near_ties(statement.near_ties), *_others(statement)]


def _others(statement: FollowUpStatement) -> list[str | Slot]:
    """Other follow-ups of the same rows, each to be followed in place of the one that is."""
    found: list[str | Slot] = []
    for k, other in enumerate(statement.others):
        exchanged = statement.following(k).model_dump(mode="json")
        left = [o.model_dump(mode="json") for j, o in enumerate(statement.others) if j != k]
        options = [
            Option(
                label=f"Follow {_of(other)}",
                note=f"{_of(statement)} waits in its place, with the meanings of its codes",
                field="",
                value={name: exchanged[name] for name in (*OtherFollowUp.model_fields, "others")},
            ),
            Option(label="Let it go", note="it no longer waits", field="others", value=left),
        ]
        title = "Another follow-up of the same rows"
        found += [
            Slot(
                id=f"others {k}",
                label=f"{_of(other)} waits",
                title=title,
                state="add",
                options=options,
            ),
            " ",
        ]
    return found


def _of(statement: FollowUpStatement | OtherFollowUp) -> str:
    """A follow-up by its time and its outcome."""
    match statement.clock:
        case BetweenDates(end=time):
            pass
        case FirstOf(last_contact=time):
            pass
        case Duration(column=time):
            pass
    outcome = statement.event_date if statement.ended == "date" else statement.outcome
    return " with ".join(name for name in (time, outcome) if name) or "nothing yet"


def _near_ties(chosen: float) -> list[str | Slot]:
    """How far apart two times may be to count as one; offered where it is as usual."""
    title = "Times are one if they differ by no more than"
    options = [
        Option(label=words, note=note, field="near_ties", value=share, chosen=share == chosen)
        for share, (words, note) in NEAR_TIES_WORDS.items()
    ]
    if chosen == NEAR_TIE:
        return [
            Slot(
                id="near_ties",
                label="Add tolerance of equal times",
                title=title,
                state="add",
                options=options,
            ),
            " ",
        ]
    label = NEAR_TIES_WORDS[chosen][0]
    return [f"{title} ", Slot(id="near_ties", label=label, title=title, options=options), ". "]


def _entered(
    field: str, value: str, name: str, title: str, kind: str, after: str = ""
) -> list[str | Slot]:
    """A part with a value to be typed, or "Add part"."""
    entry = Entry.model_validate({"kind": kind, "field": field, "label": title, "value": value})
    if not value:
        return [Slot(id=field, label=f"Add {name}", title=title, state="add", entry=entry), " "]
    away = Option(label=f"No {name}", note="take this part out", field=field, value=None)
    return [
        f"{title} ",
        Slot(id=field, label=value, title=title, entry=entry, options=[away]),
        f"{after}. ",
    ]


def _subject_parts(table: Table, statement: FollowUpStatement) -> list[str | Slot]:
    several = statement.several_rows
    options = [
        Option(
            label=f"{c.name}{', in several rows' if more else ''}",
            note="each row runs from an entry to an end"
            if more
            else "rows that share a value are shown as entered twice",
            field="",
            value={"subject": c.name, "several_rows": more},
            chosen=c.name == statement.subject and more == several,
        )
        for c in table.columns
        if c.name == statement.subject or _names(c)
        for more in (False, True)
    ]
    if statement.subject is None:
        title = "Each is known by"
        slot = Slot(
            id="subject", label="Add a name for each", title=title, state="add", options=options
        )
        return [slot, " "]
    away = Option(
        label="No name for each",
        note="take this part out",
        field="",
        value={"subject": None, "several_rows": False},
    )
    known = statement.subject + (", in several rows" if several else "")
    slot = Slot(id="subject", label=known, title="Each is known by", options=[*options, away])
    return ["Each is known by ", slot, ". "]


def _names(column: Column) -> bool:
    """Whether a column may hold names: text, or whole numbers."""
    return isinstance(column, TextColumn) or (
        isinstance(column, NumberColumn) and all_whole(column)
    )


def _optional(
    field: str, chosen: str | None, name: str, options: list[Option], title: str
) -> list[str | Slot]:
    """A part that may be there: a sentence of its own with a slot, or "Add part"."""
    if chosen is None:
        return [Slot(id=field, label=f"Add {name}", title=title, state="add", options=options), " "]
    away = Option(label=f"No {name}", note="take this part out", field=field, value=None)
    return [f"{title} ", Slot(id=field, label=chosen, title=title, options=[*options, away]), ". "]

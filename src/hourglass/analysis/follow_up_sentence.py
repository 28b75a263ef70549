"""The follow-up statement as a sentence: from which date to which, and what each code means."""

import numpy as np

from hourglass.analysis import wording
from hourglass.analysis.sentence import CodeRow, Entry, Option, Sentence, Slot, sentence
from hourglass.cohort.followup import outcome_codes
from hourglass.cohort.statement import DAYS_IN, BetweenDates, Duration, FollowUpStatement
from hourglass.cohort.table import Column, DateColumn, NumberColumn, Table

MOST_CODES = 60


def follow_up_sentence(table: Table, statement: FollowUpStatement) -> Sentence:
    """The statement with a slot for everything that can be chosen."""
    parts: list[str | Slot] = [
        "Follow ",
        _typed("rows_are", "What a row is, in the plural", statement),
    ]
    if isinstance(statement.clock, BetweenDates):
        parts += [
            " from ",
            _date_slot(table, statement.clock, "start"),
            " to ",
            _date_slot(table, statement.clock, "end"),
        ]
    else:
        parts += [" for ", _duration_slot(table, statement.clock)]
    parts += [", in ", _unit_slot(statement), ". "]
    parts += _outcome_parts(table, statement)
    return sentence(*parts, *_subject_parts(table, statement), *_late_parts(table, statement))


def _typed(field: str, title: str, statement: FollowUpStatement) -> Slot:
    value = str(getattr(statement, field))
    entry = Entry(kind="text", field=field, label=title, value=value)
    return Slot(id=field, label=value, title=title, entry=entry)


def _date_slot(table: Table, clock: BetweenDates, end: str) -> Slot:
    chosen = clock.start if end == "start" else clock.end
    options = [
        _column_option(c, f"clock.{end}", c.name == chosen)
        for c in table.columns
        if isinstance(c, DateColumn)
    ]
    options += [
        Option(
            label=f"{c.name}, a time already worked out",
            note=_range(c),
            field="clock",
            value=Duration(column=c.name).model_dump(mode="json"),
        )
        for c in table.columns
        if isinstance(c, NumberColumn)
    ]
    return Slot(
        id=end,
        label=chosen or f"a date of {end}",
        title="Follow-up starts at" if end == "start" else "Follow-up ends at",
        state="filled" if chosen else "open",
        options=options,
    )


def _duration_slot(table: Table, clock: Duration) -> Slot:
    options = [
        _column_option(c, "clock.column", c.name == clock.column)
        for c in table.columns
        if isinstance(c, NumberColumn)
    ]
    if any(isinstance(c, DateColumn) for c in table.columns):
        options.append(
            Option(
                label="from one date to another",
                note="the time is worked out from two dates",
                field="clock",
                value=BetweenDates().model_dump(mode="json"),
            )
        )
    return Slot(
        id="duration",
        label=f"the time in {clock.column}" if clock.column else "a column of times",
        title="The column that holds the time",
        state="filled" if clock.column else "open",
        options=options,
    )


def _unit_slot(statement: FollowUpStatement) -> Slot:
    dated = isinstance(statement.clock, BetweenDates)
    options = [
        Option(
            label=unit,
            note=f"1 = {wording.plain(days)} days" if dated else "the unit the column is in",
            field="unit",
            value=unit,
            chosen=unit == statement.unit,
        )
        for unit, days in DAYS_IN.items()
    ]
    return Slot(id="unit", label=statement.unit, title="Unit of time", options=options)


def _outcome_parts(table: Table, statement: FollowUpStatement) -> list[str | Slot]:
    columns = Slot(
        id="outcome",
        label=statement.outcome or "a column of outcomes",
        title="The column that says how follow-up ended",
        state="filled" if table.has(statement.outcome) else "open",
        options=[
            _outcome_option(c, c.name == statement.outcome)
            for c in table.columns
            if len(outcome_codes(c)[0]) <= MOST_CODES
        ],
    )
    if statement.outcome is None or not table.has(statement.outcome):
        return ["The outcome is in ", columns, ". "]
    parts: list[str | Slot] = ["In ", columns, ", ", _codes_slot(table, statement)]
    parts += ["; the event is called ", _typed("event_name", "What the event is called", statement)]
    return [*parts, ". "]


def _outcome_option(column: Column, chosen: bool) -> Option:
    counts = _code_counts(column)
    note = " · ".join(f"{code or 'blank'} {n:,}" for code, n in list(counts.items())[:8])
    return Option(
        label=column.name,
        note=note,
        field="",
        value={"outcome": column.name, "meanings": {}},
        chosen=chosen,
    )


def _codes_slot(table: Table, statement: FollowUpStatement) -> Slot:
    assert statement.outcome is not None
    rows = []
    for code, n in _code_counts(table.column(statement.outcome)).items():
        given = statement.meanings.get(code)
        rows.append(
            CodeRow(
                code=code,
                count=n,
                meaning=None if given is None else given.meaning,
                name="" if given is None else given.name,
            )
        )
    unknown = [row for row in rows if row.meaning is None]
    return Slot(
        id="meanings",
        label=_meanings_in_words(rows),
        title=f"What the codes of {statement.outcome} mean",
        state="open" if unknown else "filled",
        codes=rows,
    )


def _meanings_in_words(rows: list[CodeRow]) -> str:
    said = []
    for meaning, verb in (
        ("event", "the event"),
        ("censored", "censored"),
        ("competing", "competing"),
        ("set aside", "set aside"),
    ):
        codes = [row.code or "blank" for row in rows if row.meaning == meaning]
        if codes:
            said.append(f"{wording.listed(codes)} {'is' if len(codes) == 1 else 'are'} {verb}")
    unknown = [row.code or "blank" for row in rows if row.meaning is None]
    if unknown:
        shown = unknown[:6] + ([f"{len(unknown) - 6} more"] if len(unknown) > 6 else [])
        verb = "has" if len(unknown) == 1 else "have"
        said.append(f"{wording.listed(shown)} {verb} no meaning yet")
    return ", ".join(said)


def _code_counts(column: Column) -> dict[str, int]:
    codes, code_of = outcome_codes(column)
    counts = np.bincount(code_of, minlength=len(codes))
    return {code: int(n) for code, n in zip(codes, counts, strict=True) if n}


def _subject_parts(table: Table, statement: FollowUpStatement) -> list[str | Slot]:
    options = [
        Option(
            label=c.name,
            note="rows that share a value are shown as entered twice",
            field="subject",
            value=c.name,
            chosen=c.name == statement.subject,
        )
        for c in table.columns
        if not isinstance(c, DateColumn)
    ]
    return _optional("subject", statement.subject, "a name for each", options, "Each is known by")


def _late_parts(table: Table, statement: FollowUpStatement) -> list[str | Slot]:
    kind = DateColumn if isinstance(statement.clock, BetweenDates) else NumberColumn
    options = [
        _column_option(c, "late_entry", c.name == statement.late_entry)
        for c in table.columns
        if isinstance(c, kind)
    ]
    return _optional(
        "late_entry", statement.late_entry, "late entry", options, "Under observation only from"
    )


def _optional(
    field: str, chosen: str | None, name: str, options: list[Option], title: str
) -> list[str | Slot]:
    """A part that may be there: a sentence of its own with a slot, or "+ part"."""
    if chosen is None:
        return [Slot(id=field, label=f"+ {name}", title=title, state="add", options=options), " "]
    away = Option(label=f"No {name}", note="take this part out", field=field, value=None)
    return [f"{title} ", Slot(id=field, label=chosen, title=title, options=[*options, away]), ". "]


def _column_option(column: Column, field: str, chosen: bool) -> Option:
    return Option(
        label=column.name, note=_range(column), field=field, value=column.name, chosen=chosen
    )


def _range(column: Column) -> str:
    missing = int(column.missing.sum())
    known = (~column.missing).nonzero()[0]
    lost = f", {missing:,} missing" if missing else ""
    if known.size == 0:
        return "nothing in it"
    if isinstance(column, DateColumn | NumberColumn):
        values = column.values[known]
        low, high = known[int(values.argmin())], known[int(values.argmax())]
        return f"{column.cell(int(low))} to {column.cell(int(high))}{lost}"
    return f"{len(column.counts()):,} levels{lost}"

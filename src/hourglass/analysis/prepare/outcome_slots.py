"""The slots of the outcome: who had the event, and what each code means."""

import numpy as np

from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.naming import UNNAMED_EVENT
from hourglass.analysis.shared.sentence import CodeRow, Entry, Option, Slot
from hourglass.cohort.code_meanings import probable_meanings
from hourglass.cohort.derive import folded_codes, outcome_codes
from hourglass.cohort.profile import all_whole, profile_of
from hourglass.cohort.statement import FirstOf, FollowUpStatement
from hourglass.cohort.table import Column, DateColumn, NumberColumn, Table, TextColumn

MAX_CODES = 60
MEANINGS = (
    ("event", "the event"),
    ("censored", "censored"),
    ("competing", "competing"),
    ("set aside", "set aside"),
)


def outcome_parts(table: Table, statement: FollowUpStatement) -> list[str | Slot]:
    """How each follow-up ended, where the clock leaves it open."""
    if isinstance(statement.clock, FirstOf):
        return []
    columns = _outcome_slot(table, statement)
    name = event_name(statement)
    if statement.ended == "everyone":
        return ["All ", columns, *_named(name), ". "]
    if statement.ended == "records":
        return ["The event is ", columns, *_named(name), ". "]
    if statement.ended == "date":
        return [columns, " has a date where the event happened", *_named(name), ". "]
    if statement.outcome is None or not table.has(statement.outcome):
        return ["The outcome is in ", columns, ". "]
    return ["In ", columns, ", ", _codes_slot(table, statement), *_named(name), ". "]


def event_name(statement: FollowUpStatement) -> Slot:
    """The slot for what the event is called."""
    return typed_slot("event_name", "What the event is called", statement)


def _named(name: Slot) -> list[str | Slot]:
    """What the event is called, where it has a name; else the offer to give it one."""
    if name.label != UNNAMED_EVENT:
        return ["; the event is called ", name]
    return [" ", name.model_copy(update={"label": "Add a name of the event", "state": "add"})]


def typed_slot(field: str, title: str, statement: FollowUpStatement) -> Slot:
    """A slot for words to be typed."""
    value = str(getattr(statement, field))
    entry = Entry(kind="text", field=field, label=title, value=value)
    return Slot(id=field, label=value, title=title, entry=entry)


def _outcome_slot(table: Table, statement: FollowUpStatement) -> Slot:
    chosen = {
        "codes": statement.outcome,
        "date": statement.event_date,
        "everyone": "had the event",
        "records": "in the records of a further table",
    }[statement.ended]
    options = [
        _outcome_option(c, statement.ended == "codes" and c.name == statement.outcome)
        for c in table.columns
        if _few(c)
    ]
    options += [
        Option(
            label=f"{c.name}: the event happened where it has a date",
            note=f"{formatting.grouped(int((~c.missing).sum()))} of "
            f"{formatting.grouped(table.size)} rows have one",
            field="",
            value={"ended": "date", "event_date": c.name},
            chosen=statement.ended == "date" and c.name == statement.event_date,
        )
        for c in table.columns
        if isinstance(c, DateColumn)
    ]
    options.append(
        Option(
            label="all had the event",
            note="only if nobody was still waiting for it when follow-up ended",
            field="",
            value={"ended": "everyone"},
            chosen=statement.ended == "everyone",
        )
    )
    options.append(
        Option(
            label="in the records of a further table",
            note="every follow-up is censored at its end, unless a record ends it",
            field="",
            value={"ended": "records"},
            chosen=statement.ended == "records",
        )
    )
    there = statement.ended in {"everyone", "records"} or table.has(chosen)
    return Slot(
        id="outcome",
        label=(chosen or "a column of outcomes") if there else "a column of outcomes",
        title="How one knows who had the event",
        state="filled" if there else "open",
        options=options,
    )


def _few(column: Column) -> bool:
    if isinstance(column, TextColumn):
        return len(column.levels) <= MAX_CODES
    if isinstance(column, NumberColumn) and not all_whole(column):
        return False  # a measurement
    distinct = profile_of(column).distinct
    return distinct <= MAX_CODES and len(outcome_codes(column)[0]) <= MAX_CODES


def _outcome_option(column: Column, chosen: bool) -> Option:
    counts = _code_counts(column)
    note = " · ".join(
        f"{code or 'blank'} {formatting.grouped(n)}" for code, n in list(counts.items())[:8]
    )
    return Option(
        label=column.name,
        note=note,
        field="",
        value={"ended": "codes", "outcome": column.name, "meanings": {}},
        chosen=chosen,
    )


def _codes_slot(table: Table, statement: FollowUpStatement) -> Slot:
    assert statement.outcome is not None
    codes, code_of, spellings = folded_codes(table.column(statement.outcome))
    counts = np.bincount(code_of, minlength=len(codes))
    probable = probable_meanings(table, statement)
    rows = []
    for code, n, spelled in zip(codes, counts, spellings, strict=True):
        given = statement.meaning_of(code)
        likely = probable.get(code) if given is None else None
        rows.append(
            CodeRow(
                code=code,
                count=int(n),
                spellings=[s for s in spelled if s != code] if len(spelled) > 1 else [],
                proposed=None if likely is None else likely.meaning,
                because="" if likely is None else likely.because,
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
    sentences = []
    for meaning, verb in MEANINGS:
        codes = [row.code or "blank" for row in rows if row.meaning == meaning]
        if codes:
            sentences.append(
                f"{formatting.listed(codes)} {'is' if len(codes) == 1 else 'are'} {verb}"
            )
    unknown = [row.code or "blank" for row in rows if row.meaning is None]
    if unknown:
        shown = unknown[:6] + ([f"{len(unknown) - 6} more"] if len(unknown) > 6 else [])
        verb = "has" if len(unknown) == 1 else "have"
        sentences.append(f"{formatting.listed(shown)} {verb} no meaning yet")
    return ", ".join(sentences)


def _code_counts(column: Column) -> dict[str, int]:
    codes, code_of = outcome_codes(column)
    counts = np.bincount(code_of, minlength=len(codes))
    return {code: int(n) for code, n in zip(codes, counts, strict=True) if n}

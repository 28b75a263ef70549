"""The words of the fields of the follow-up statement."""

from collections.abc import Mapping
from typing import Any

from hourglass.analysis.prepare.sentence import NEAR_TIES_WORDS
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.field_words import (
    FieldChange,
    FieldWords,
    Words,
    one_of_words,
    quoted,
    worded_changes,
    yes_as,
)
from hourglass.cohort.statement import UNSTATED
from hourglass.cohort.words import cut

MAX_CODES = 12
OPEN = "an open slot"


def _clock(value: Any) -> str:
    if not value:
        return ""
    start = value.get("start") or OPEN
    match value["kind"]:
        case "duration":
            return value["column"] or OPEN
        case "dates":
            return f"from {start} to {value['end'] or OPEN}"
        case _:
            events = [event["column"] for event in value["events"]]
            last = value["last_contact"] or OPEN
            return (
                f"from {start} to the earliest of {formatting.listed(events) or OPEN}, else {last}"
            )


def _others(value: Any) -> str:
    return "; ".join(
        " with ".join(w for w in (_clock(one["clock"]), one["outcome"] or one["event_date"]) if w)
        for one in value or ()
    )


def _near_ties(value: Any) -> str:
    known = NEAR_TIES_WORDS.get(value)
    return formatting.plain(value) if known is None else known[0]


def _meanings(value: Any) -> str:
    return meanings_in_words(value or {})


ENDED = {
    "codes": "what codes say",
    "date": "whoever has a date of it",
    "everyone": "all subjects",
    "records": "whoever has a record of it",
}
FOLLOW_UP_WORDS: Words = {
    "rows_are": FieldWords("What a row is"),
    "event_name": FieldWords("The event is called", quoted),
    "subject": FieldWords("Each is known by"),
    "clock": FieldWords("Time", _clock),
    "unit": FieldWords("Unit", one_of_words({UNSTATED: ""})),
    "outcome": FieldWords("Outcome"),
    "meanings": FieldWords("What codes mean", _meanings),
    "late_entry": FieldWords("Under observation only from"),
    "ended": FieldWords("Who had the event", lambda ended: ENDED.get(ended, "")),
    "event_date": FieldWords("Date of the event"),
    "closing_date": FieldWords("Nothing is counted after"),
    "several_rows": FieldWords("Each in several rows", yes_as("yes")),
    "count": FieldWords("Each row stands for as many as"),
    "zero_moved_to": FieldWords("Rows that end at their start are followed for"),
    "longest": FieldWords("Nobody is followed for longer than"),
    "landmark": FieldWords("Only those still followed are counted, from"),
    "near_ties": FieldWords("Times are one if they differ by no more than", _near_ties),
    "others": FieldWords("Other follow-ups of the same rows", _others),
}


def follow_up_changes(before: Mapping[str, Any], after: Mapping[str, Any]) -> list[FieldChange]:
    """What of a follow-up statement is otherwise: fields of two statements as JSON, in words.

    What codes mean is given for those of which it changed, or for all of an outcome that is new.
    """
    found = [
        change
        for change in worded_changes(before, after, FOLLOW_UP_WORDS)
        if change.field != "meanings"
    ]
    was, becomes = before.get("meanings") or {}, after.get("meanings") or {}
    if was == becomes:
        return found
    codes = [code for code in {**was, **becomes} if was.get(code) != becomes.get(code)]
    if before.get("outcome") == after.get("outcome"):
        return [*found, _meant("Outcome", codes, was, becomes)] if codes else found
    codes = [code for code in becomes if becomes[code]]  # those of the column before went with it
    return [*found, _meant("Codes", codes, {}, becomes)] if codes else found


def _meant(
    title: str, codes: list[str], was: Mapping[str, Any], becomes: Mapping[str, Any]
) -> FieldChange:
    there = {code: was.get(code) for code in codes}
    before = "" if not any(there.values()) else meanings_in_words(there)
    now = meanings_in_words({code: becomes.get(code) for code in codes})
    return FieldChange("meanings", title, before, now)


def meanings_in_words(meanings: Mapping[str, Any]) -> str:
    """What codes mean: "felled is the event; lost and standing are censored"."""
    parts = list[str]()
    for meaning, one, several in (
        ("event", "is the event", "are the event"),
        ("censored", "is censored", "are censored"),
        ("competing", "is a competing event", "are competing events"),
        ("set aside", "is set aside", "are set aside"),
        (None, "has no meaning", "have no meaning"),
    ):
        codes = [c for c, given in meanings.items() if (given or {}).get("meaning") == meaning]
        shown = [_code(c, meanings[c]) for c in codes[:MAX_CODES]]
        if len(codes) > MAX_CODES:
            shown.append(f"{formatting.grouped(len(codes) - MAX_CODES)} more")
        if codes:
            parts.append(f"{formatting.listed(shown)} {one if len(codes) == 1 else several}")
    return "; ".join(parts)


def _code(code: str, given: Any) -> str:
    name = (given or {}).get("name", "")
    shown = cut(code) or "blank"
    return f"{shown} ({cut(name)})" if name and name != code else shown

"""What a change of a statement says: its slots as they read before and after."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from hourglass.analysis.shared.sentence import Sentence

LONGEST = 300
NOTHING = "none"


@dataclass(frozen=True, slots=True)
class ChangedWords:
    """What was changed: the slots it is about, in a sentence, and how they read before and after."""

    about: str
    sentence: str
    before: str
    after: str


def changed_slots(before: Sentence, after: Sentence) -> ChangedWords | None:
    """The slots of two sentences that read otherwise; None if none does."""
    old, new = _labels(before), _labels(after)
    titles = _titles(before) | _titles(after)
    pairs = [(k, titles[k], old.get(k, ""), new.get(k, "")) for k in titles]
    return _worded([pair for pair in pairs if pair[2] != pair[3]])


def changed_fields(before: Mapping[str, Any], after: Mapping[str, Any]) -> ChangedWords | None:
    """The fields of two statements that differ, where there is no sentence to say it."""
    names = sorted(before.keys() | after.keys())
    pairs = [(k, k.replace("_", " "), _said(before.get(k)), _said(after.get(k))) for k in names]
    return _worded([pair for pair in pairs if pair[2] != pair[3]])


def shortened(words: str) -> str:
    """Words that can be read at a glance."""
    return words if len(words) <= LONGEST else words[: LONGEST - 2].rstrip() + " …"


def _worded(pairs: list[tuple[str, str, str, str]]) -> ChangedWords | None:
    if not pairs:
        return None
    said = [f"{title}: {old or NOTHING} → {new or NOTHING}" for _, title, old, new in pairs]
    return ChangedWords(
        about=",".join(key for key, _, _, _ in pairs)[:200],
        sentence=shortened("; ".join(said)),
        before=shortened("; ".join(old or NOTHING for _, _, old, _ in pairs)),
        after=shortened("; ".join(new or NOTHING for _, _, _, new in pairs)),
    )


def _labels(said: Sentence) -> dict[str, str]:
    return {
        part.slot.id: part.slot.label
        for part in said.parts
        if part.slot is not None and part.slot.state == "filled"
    }


def _titles(said: Sentence) -> dict[str, str]:
    return {part.slot.id: part.slot.title for part in said.parts if part.slot is not None}


def _said(value: Any) -> str:
    if value is None or value in ("", [], {}):
        return ""
    return value if isinstance(value, str) else repr(value)

"""What the fields of a statement are called and how their values read, without any data.

A stage names the words of its own fields; a field without any reads by its name and value.
"""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from functools import partial
from typing import Any

from hourglass.analysis.catalogue.entry import MethodEntry
from hourglass.analysis.shared import formatting
from hourglass.cohort.words import cut, listed

NONE = "none"
BETWEEN = " → "
MAX_WORDS = 300
"""Letters of a value that are shown in a sentence."""
NO_EARLIER: Mapping[str, str] = {}
NAMING = frozenset({"stage", "version"})
"""Fields that name the statement itself."""


def plain_value(value: Any) -> str:
    """A value as it could be written by hand; blank where there is none."""
    if value is None or value in ("", [], (), {}):
        return ""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, int | float):
        return formatting.plain(float(value))
    if isinstance(value, list | tuple):
        return listed([plain_value(one) for one in value])
    if isinstance(value, Mapping):
        there = {name: plain_value(one) for name, one in value.items()}
        return ", ".join(
            f"{name.replace('_', ' ')} {words}" for name, words in there.items() if words
        )
    return str(value)


@dataclass(frozen=True, slots=True)
class FieldWords:
    """What a field is called, and how its value reads, from JSON; blank reads as none.

    ``value`` goes along where a stage is handed to another process, so that it is no lambda.
    """

    title: str
    value: Callable[[Any], str] = plain_value


Words = Mapping[str, FieldWords]


@dataclass(frozen=True, slots=True)
class FieldChange:
    """A field that holds something else now: what it is called, and how it reads before and after."""

    field: str
    title: str
    before: str
    after: str

    @property
    def sentence(self) -> str:
        """What was changed, from what to what; a value that there was not before stands alone."""
        if not self.before or self.before == self.after:
            return f"{self.title}: {self.after or NONE}"
        return f"{self.title}: {self.before}{BETWEEN}{self.after or NONE}"


def words_of(field: str, words: Words) -> FieldWords:
    """The words of a field; one without any reads by its name and value."""
    return words.get(field) or FieldWords(formatting.capital(field.replace("_", " ")))


def changed_fields(before: Mapping[str, Any], after: Mapping[str, Any]) -> list[str]:
    """The fields of two statements, as JSON, that differ, in their order."""
    names = {**before, **after}
    return [n for n in names if n not in NAMING and before.get(n) != after.get(n)]


def unworded(value: object) -> str:
    """Nothing: the field follows from other decisions, and is worded with none."""
    return ""


def worded_changes(
    before: Mapping[str, Any], after: Mapping[str, Any], words: Words
) -> list[FieldChange]:
    """Every field that differs, in the order of its words, and then as they come."""
    order = {name: k for k, name in enumerate(words)}
    found = []
    for name in sorted(changed_fields(before, after), key=lambda n: order.get(n, len(order))):
        own = words_of(name, words)
        was, becomes = (own.value(body.get(name)) for body in (before, after))
        if was or becomes:
            found.append(FieldChange(name, own.title, cut(was, MAX_WORDS), cut(becomes, MAX_WORDS)))
    return found


def sentence_of(changes: Sequence[FieldChange]) -> str:
    """All changes in one line."""
    return "; ".join(change.sentence for change in changes)


def details_of(changes: Sequence[FieldChange]) -> str:
    """All changes within a sentence: "width 85 (before 170), legend yes"."""
    found = []
    for change in changes:
        before = f" (before {change.before})" if change.before != change.after else ""
        words = f"{change.title[:1].lower()}{change.title[1:]} {change.after or NONE}"
        found.append(words + (before if change.before else ""))
    return ", ".join(found)


def percent(value: Any) -> str:
    """A level of confidence; where none is stated it is that of the study's curves."""
    return "as in Estimate" if value is None else formatting.level_percent(float(value))


def quoted(value: Any) -> str:
    """What somebody wrote."""
    return f"“{value}”" if value else ""


def one_of_words(words: Mapping[str, str]) -> Callable[[Any], str]:
    """The words of a choice by its key; a key without words reads as it is."""
    return partial(_chosen, words)


def one_of_entries(
    entries: Mapping[str, MethodEntry], earlier: Mapping[str, str] = NO_EARLIER
) -> Callable[[Any], str]:
    """The name of a method by its key, or by the one that it had in an earlier version."""
    known = {key: one.name for key, one in entries.items()}
    return one_of_words({**{old: known[new] for old, new in earlier.items()}, **known})


def _chosen(words: Mapping[str, str], value: Any) -> str:
    return words.get(str(value), plain_value(value))


def yes_as(words: str) -> Callable[[Any], str]:
    """Words for yes; blank for no."""
    return partial(_yes, words)


def _yes(words: str, value: Any) -> str:
    return words if value else ""

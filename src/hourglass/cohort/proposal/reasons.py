"""What is proposed, and what is left open between several columns."""

from collections.abc import Iterable
from dataclasses import dataclass

from hourglass.cohort.profile import profile_of
from hourglass.cohort.table import Column
from hourglass.cohort.units import words_of


@dataclass(frozen=True, slots=True)
class Reason:
    """Why something is proposed: the path in the statement, the column or unit, and the reason."""

    field: str
    value: str
    because: str


@dataclass(frozen=True, slots=True)
class LeftOpen:
    """Several columns that could fill a part of the statement alike: somebody has to choose."""

    field: str
    columns: tuple[str, ...]


def named(name: str, words: Iterable[str]) -> str | None:
    """The first of some words that a name has a word beginning with."""
    own = [*words_of(name), name.lower()]
    return next((w for w in words if any(word.startswith(w) for word in own)), None)


def has_word(name: str, words: Iterable[str]) -> bool:
    """Whether a name has one of some words, whole."""
    own = {*words_of(name), name.lower()}
    return not own.isdisjoint(words)


def distinct(column: Column) -> int:
    """How many different values a column has."""
    return profile_of(column).distinct

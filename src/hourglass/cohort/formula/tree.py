"""Formulas as trees."""

from dataclasses import dataclass
from typing import TypeAlias


@dataclass(frozen=True, slots=True)
class Literal:
    """A number or a text written in the formula; None is "missing"."""

    value: float | str | None
    start: int
    end: int


@dataclass(frozen=True, slots=True)
class ColumnName:
    """A column of the table."""

    name: str
    start: int
    end: int


@dataclass(frozen=True, slots=True)
class Operation:
    """An operator or a function with what it works on."""

    name: str
    parts: tuple["Tree", ...]
    start: int
    end: int


Tree: TypeAlias = Literal | ColumnName | Operation


def columns_of(tree: Tree) -> frozenset[str]:
    """The columns a formula names."""
    waiting, found = [tree], set()
    while waiting:
        part = waiting.pop()
        if isinstance(part, ColumnName):
            found.add(part.name)
        elif isinstance(part, Operation):
            waiting += part.parts
    return frozenset(found)

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
    if isinstance(tree, ColumnName):
        return frozenset({tree.name})
    if isinstance(tree, Operation):
        return frozenset().union(*(columns_of(part) for part in tree.parts))
    return frozenset()

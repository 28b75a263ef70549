"""What a column may be chosen as: the facts that this depends on, one such choice, what may be typed."""

from dataclasses import dataclass
from typing import TYPE_CHECKING, Literal

from hourglass.analysis.model.number_facts import NumberFacts
from hourglass.cohort.table import Column, NumberColumn

if TYPE_CHECKING:
    from hourglass.analysis.model.terms.form import TermForm


@dataclass(frozen=True, slots=True)
class ColumnFacts:
    """A column with its levels, in their order, and the facts of its numbers where it holds some."""

    column: Column
    levels: tuple[str, ...]
    numbers: NumberFacts | None

    @property
    def name(self) -> str:
        """The column's name."""
        return self.column.name

    def taken_as_number(self, now: "TermForm") -> NumberFacts | None:
        """The facts of its numbers, where the form that it has now does not compare them level by level."""
        return None if now.against_reference else self.numbers

    def written(self, value: float) -> str:
        """A number as the column writes it."""
        assert isinstance(self.column, NumberColumn)
        return self.column.written(value)


@dataclass(frozen=True, slots=True)
class TypedOf:
    """A value of a term that may be typed: into which of its fields, and how it is read."""

    kind: Literal["number", "scores"]
    field: str
    label: str
    value: str


@dataclass(frozen=True, slots=True)
class FormChoice:
    """A form that a column may take, as it is offered."""

    label: str
    term: "TermForm"
    note: str = ""

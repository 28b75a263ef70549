"""What every form of a term answers for itself: its names, its columns, its ratios, its choices."""

from collections.abc import Mapping, Sequence
from typing import ClassVar, Self

from hourglass.analysis.model.terms.changing import Changing
from hourglass.analysis.model.terms.choices import ColumnFacts, FormChoice, TypedOf
from hourglass.analysis.model.terms.column_block import ColumnBlock, Rows
from hourglass.analysis.model.terms.compared import Compared, Seen, Setting
from hourglass.analysis.shared.frozen_model import FrozenModel
from hourglass.cohort.table import Table
from hourglass.core.arrays import FloatArray


class TermForm(FrozenModel):
    """A term: a column in some form, its ratio the same throughout or ``changing`` over time.

    All that the rest of the program needs of a form stands here; what a form leaves out is as here.

    Attributes:
        several: its columns can only be read together, as those of a curve can.
        by_level: its values are levels; by those of a number where it is neither this nor ``of_terms``.
        against_reference: each level has a ratio of its own, against a reference.
        straight: a number enters in a straight line, as it is or on another scale.
        of_terms: it is made of other terms, which are in the model themselves.
        headed: the rows of its ratios need the term's name above them.
    """

    several: ClassVar[bool] = False
    by_level: ClassVar[bool] = False
    against_reference: ClassVar[bool] = False
    straight: ClassVar[bool] = False
    of_terms: ClassVar[bool] = False
    headed: ClassVar[bool] = False
    kind: str
    column: str
    changing: Changing | None = None

    @property
    def columns(self) -> tuple[str, ...]:
        """The columns of the table that it takes its values from."""
        return (self.column,)

    @property
    def by_number(self) -> bool:
        """Whether its values are those of a number."""
        return not (self.by_level or self.of_terms)

    @property
    def name(self) -> str:
        """What it is called for short."""
        return self.column

    @property
    def unit_label(self) -> str:
        """The difference that a number's ratio is for, or its form; blank for a category."""
        return ""

    @property
    def label(self) -> str:
        """The term as it stands in the sentence."""
        change = self.changing.label if self.changing else ""
        return " ".join(word for word in (self.column, self.unit_label, change) if word)

    @property
    def steady(self) -> Self:
        """The same term with a ratio that stays the same."""
        return self.model_copy(update={"changing": None})

    @property
    def ratio_unit(self) -> float:
        """So many of its coefficient make the ratio of a term that has one: a number's is per a unit."""
        return 1.0

    @property
    def reference_level(self) -> str:
        """The level that others are compared with, where one is stated."""
        return ""

    @property
    def reference_value(self) -> float | None:
        """The value that a curve is read against, where one is stated."""
        return None

    def with_levels_named(self, names: Mapping[str, str]) -> Self:
        """The same term with the levels of its column under their new names: old to new."""
        return self

    def without_reference(self) -> Self:
        """The same term with the reference level of its column."""
        return self

    def holds(self, other: "TermForm") -> bool:
        """Whether another form of its column is a special case of it."""
        return False

    def coded(self, rows: Rows) -> ColumnBlock:
        """Its columns.

        Raises:
            UnusableTermError: when the column cannot be coded as requested.
            NoSuchColumnError: when it is not in the table.
            NotEstimableError: when it has too few values for a curve.
        """
        raise NotImplementedError

    def at(self, values: FloatArray, block: ColumnBlock) -> FloatArray:
        """(m, k) its columns at some values of its number."""
        raise NotImplementedError

    def at_value(self, value: str, table: Table, block: ColumnBlock) -> FloatArray:
        """(k,) its columns at a value as it is written.

        Raises:
            NotEstimableError: for a value that no row has, or that is no number.
        """
        raise NotImplementedError

    def for_rows(self, own: Table, other: Table, block: ColumnBlock) -> FloatArray:
        """(n, k) its columns for the rows of another table; NaN without a value that the model knows."""
        raise NotImplementedError

    def compared(self, seen: Seen) -> list[Compared]:
        """The comparisons of its values that its ratios are."""
        raise NotImplementedError

    def settings(self, seen: Seen) -> list[Setting]:
        """Values at which the ratio of a term that it changes is given."""
        raise NotImplementedError

    def usual_setting(self, settings: Sequence[Setting]) -> Setting:
        """The one of them that stands for all."""
        return settings[len(settings) // 2]

    @property
    def title(self) -> str:
        """What is chosen where its form is."""
        return f"{self.column}: ratio per"

    def offer_note(self, table: Table) -> str:
        """What it is, where it is offered."""
        return f"a number, {self.unit_label}"

    @classmethod
    def choices(cls, facts: ColumnFacts, now: "TermForm") -> list[FormChoice]:
        """The forms of this kind that a column may take instead of the one it has now."""
        return []

    def same_form(self, other: "TermForm") -> bool:
        """Whether another term has the form that this one offers."""
        return self.steady == other.steady

    def typed(self, facts: ColumnFacts) -> TypedOf | None:
        """What may be typed of it, into a field of its own."""
        return None

"""A number with one ratio: per a unit, or per doubling."""

from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from hourglass.analysis.model.terms.choices import ColumnFacts, FormChoice, TypedOf
from hourglass.analysis.model.terms.column_block import (
    ColumnBlock,
    ColumnName,
    Rows,
    UnusableTermError,
)
from hourglass.analysis.model.terms.compared import (
    Compared,
    Seen,
    Setting,
    braced,
    column_words,
    per_words,
)
from hourglass.analysis.model.terms.form import TermForm
from hourglass.analysis.shared import naming
from hourglass.cohort.table import NumberColumn, Table
from hourglass.cohort.words import MINUS
from hourglass.core.arrays import FloatArray
from hourglass.core.errors import NotEstimableError


class NumberForm(TermForm):
    """Any form of a number: its columns follow from the number's value."""

    def at_value(self, value: str, table: Table, block: ColumnBlock) -> FloatArray:
        try:
            number = float(value.replace(MINUS, "-"))
        except ValueError:
            raise NotEstimableError(f"“{value}” is no number for {self.column}") from None
        found = self.at(np.array([number]), block)[0]
        if not np.isfinite(found).all():
            raise NotEstimableError(f"{self.column} {value} has no place on its scale")
        return np.asarray(found)

    def for_rows(self, own: Table, other: Table, block: ColumnBlock) -> FloatArray:
        with np.errstate(divide="ignore", invalid="ignore"):
            return np.asarray(self.at(numbers_of(other, self.column).values, block))

    def settings(self, seen: Seen) -> list[Setting]:
        """Its quartiles."""
        column = seen.numbers(self.column)
        return [
            Setting(
                f"{self.column} {column.written(float(value))}",
                self.at(np.array([value]), seen.block)[0],
            )
            for value in np.unique(seen.quartiles())
        ]


class StraightForm(NumberForm):
    """A number with one coefficient, in a straight line on some scale."""

    straight: ClassVar[bool] = True

    def per(self, table: Table) -> str:
        """Per what its ratio is, in the words of its column."""
        raise NotImplementedError

    def compared(self, seen: Seen) -> list[Compared]:
        return [one_ratio(self, seen, self.per(seen.table))]


class NumberTerm(StraightForm):
    """A number, whose ratio is shown per ``unit``; its coefficient is per 1 of the column."""

    kind: Literal["number"] = "number"
    unit: Annotated[float, Field(gt=0, allow_inf_nan=False)] = 1.0

    @property
    def unit_label(self) -> str:
        return f"per {naming.plain(self.unit)}"

    @property
    def ratio_unit(self) -> float:
        return self.unit

    def coded(self, rows: Rows) -> ColumnBlock:
        values = numbers_of(rows.table, self.column).values
        return ColumnBlock(values[:, None], (_single(self.column, "per 1"),))

    def at(self, values: FloatArray, block: ColumnBlock) -> FloatArray:
        return values[:, None]

    def per(self, table: Table) -> str:
        return per_words(table, self.column, self.unit)

    @classmethod
    def choices(cls, facts: ColumnFacts, now: TermForm) -> list[FormChoice]:
        if facts.numbers is None:
            return []
        if now.against_reference:
            number = cls(column=facts.name)
            return [
                FormChoice(
                    f"Take {facts.name} as a number", number, "one ratio for each increase by 1"
                )
            ]
        unit = facts.numbers.unit
        return [
            FormChoice(f"per {naming.plain(value)}", cls(column=facts.name, unit=value))
            for value in sorted({1.0, unit, 5 * unit, 10 * unit})
        ]

    def typed(self, facts: ColumnFacts) -> TypedOf | None:
        return TypedOf(
            kind="number", field="unit", label="Another unit", value=naming.plain(self.unit)
        )


class DoublingTerm(StraightForm):
    """A positive number on the log scale; its ratio is per doubling."""

    kind: Literal["doubling"] = "doubling"

    @property
    def unit_label(self) -> str:
        return "per doubling"

    def coded(self, rows: Rows) -> ColumnBlock:
        column = numbers_of(rows.table, self.column)
        if (column.values[~column.missing] <= 0).any():
            raise UnusableTermError(f"{self.column} has values that are not positive to double")
        return ColumnBlock(
            np.log2(column.values)[:, None], (_single(self.column, self.unit_label),)
        )

    def at(self, values: FloatArray, block: ColumnBlock) -> FloatArray:
        return np.log2(values)[:, None]

    def per(self, table: Table) -> str:
        return f"for each doubling of {column_words(table, self.column)}"

    @classmethod
    def choices(cls, facts: ColumnFacts, now: TermForm) -> list[FormChoice]:
        numbers = facts.taken_as_number(now)
        if numbers is None or not numbers.positive:
            return []
        term = cls(column=facts.name)
        return [FormChoice("per doubling", term, "the number enters on the log scale")]


def _single(column: str, per: str) -> ColumnName:
    return ColumnName(column, per, per, column)


def one_ratio(term: TermForm, seen: Seen, per: str) -> Compared:
    """The ratio of a term with one column."""
    return Compared(
        label=seen.block.names[0].label,
        against=term.unit_label,
        comparison=term.unit_label,
        higher=braced(per),
        briefly=per,
        values=np.array([term.ratio_unit]),
    )


def numbers_of(table: Table, name: str) -> NumberColumn:
    """A column of numbers.

    Raises:
        UnusableTermError: when it holds something else.
        NoSuchColumnError: when it is not in the table.
    """
    column = table.column(name)
    if not isinstance(column, NumberColumn):
        raise UnusableTermError(f"{name} does not hold numbers")
    return column

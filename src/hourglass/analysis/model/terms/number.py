"""A number: per a unit, per doubling, or as a curve through its powers or a restricted cubic spline."""

from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from hourglass.analysis.model.terms.form import (
    Block,
    ColumnName,
    Rows,
    TermForm,
    UnusableTermError,
    numbers_of,
)
from hourglass.analysis.shared import naming
from hourglass.core.arrays import FloatArray
from hourglass.core.regression.terms import cubic_columns, powers, sample_knots

Finite = Annotated[float, Field(allow_inf_nan=False)]
DEGREE_WORDS = {2: "quadratic", 3: "cubic"}


class NumberTerm(TermForm):
    """A number, whose ratio is shown per ``unit``; its coefficient is per 1 of the column."""

    kind: Literal["number"] = "number"
    unit: Annotated[float, Field(gt=0, allow_inf_nan=False)] = 1.0

    @property
    def unit_label(self) -> str:
        return f"per {naming.plain(self.unit)}"

    def coded(self, rows: Rows) -> Block:
        values = numbers_of(rows.table, self.column).values
        per = "per 1"
        return Block(values[:, None], (ColumnName(self.column, per, per, self.column),))


class DoublingTerm(TermForm):
    """A positive number on the log scale; its ratio is told per doubling."""

    kind: Literal["doubling"] = "doubling"

    @property
    def unit_label(self) -> str:
        return "per doubling"

    def coded(self, rows: Rows) -> Block:
        column = numbers_of(rows.table, self.column)
        if (column.values[~column.missing] <= 0).any():
            raise UnusableTermError(f"{self.column} has values that are not positive to double")
        return Block(np.log2(column.values)[:, None], (_single(self),))


class CurvedTerm(TermForm):
    """A number as a curve, read against a ``reference`` value; its median where none is stated."""

    several: ClassVar[bool] = True
    reference: Finite | None = None

    def at(self, values: FloatArray, block: Block) -> FloatArray:
        """(m, k) the term's columns at some values of the number."""
        raise NotImplementedError


class PolynomialTerm(CurvedTerm):
    """A number and its powers."""

    kind: Literal["polynomial"] = "polynomial"
    degree: Literal[2, 3] = 2

    @property
    def unit_label(self) -> str:
        return f"as a {DEGREE_WORDS[self.degree]} curve"

    def coded(self, rows: Rows) -> Block:
        values = numbers_of(rows.table, self.column).values
        names = ("", "²", "³")[: self.degree]
        return Block(
            powers(values, self.degree), tuple(_part(self, self.column + n) for n in names)
        )

    def at(self, values: FloatArray, block: Block) -> FloatArray:
        return powers(values, self.degree)


class SplineTerm(CurvedTerm):
    """A restricted cubic spline: ``knots`` at quantiles of the values used, or ``at_values``."""

    kind: Literal["spline"] = "spline"
    knots: Literal[3, 4, 5] = 4
    at_values: Annotated[tuple[Finite, ...], Field(max_length=9)] = ()

    @property
    def unit_label(self) -> str:
        if self.at_values:
            knots = naming.listed([naming.plain(k) for k in sorted(self.at_values)])
            return f"as a spline with knots at {knots}"
        return f"as a spline of {self.knots} knots"

    def coded(self, rows: Rows) -> Block:
        values = numbers_of(rows.table, self.column).values
        known = rows.used & np.isfinite(values)
        if not known.any():
            raise UnusableTermError(f"{self.column} has no value in the rows analysed")
        knots = (
            np.array(sorted(self.at_values))
            if self.at_values
            else sample_knots(values[known], rows.count[known].astype(np.int64), self.knots)
        )
        found = cubic_columns(values, knots)
        names = [self.column] + [
            f"{self.column}, bend at {naming.plain(float(k))}" for k in knots[1:-1]
        ]
        return Block(found, tuple(_part(self, n) for n in names), tuple(float(k) for k in knots))

    def at(self, values: FloatArray, block: Block) -> FloatArray:
        return cubic_columns(values, np.array(block.knots))


def _single(term: TermForm) -> ColumnName:
    return ColumnName(term.column, term.unit_label, term.unit_label, term.column)


def _part(term: TermForm, name: str) -> ColumnName:
    return ColumnName(name, "", "a part of its curve", name)

"""A number as a curve: through its powers, or a restricted cubic spline."""

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
from hourglass.analysis.model.terms.compared import Compared, Seen, braced, column_words
from hourglass.analysis.model.terms.form import TermForm
from hourglass.analysis.model.terms.number import NumberForm, NumberTerm, numbers_of
from hourglass.analysis.shared import naming
from hourglass.core.arrays import FloatArray
from hourglass.core.regression.terms import KNOT_SHARES, cubic_columns, powers, sample_knots

Finite = Annotated[float, Field(allow_inf_nan=False)]
DEGREE_WORDS = {2: "quadratic", 3: "cubic"}


class CurvedTerm(NumberForm):
    """A number as a curve, read against a ``reference`` value; its median where none is stated."""

    several: ClassVar[bool] = True
    headed: ClassVar[bool] = True
    reference: Finite | None = None

    @property
    def reference_value(self) -> float | None:
        return self.reference

    @property
    def title(self) -> str:
        return f"{self.column}: form of the curve"

    def holds(self, other: TermForm) -> bool:
        return isinstance(other, NumberTerm)

    def compared(self, seen: Seen) -> list[Compared]:
        """The upper quartile against the lower, or each of both against a stated reference."""
        low, _, high = seen.quartiles()
        pairs = [(high, low)]
        if self.reference is not None:
            pairs = [(v, self.reference) for v in (low, high)]
        column = seen.numbers(self.column)
        unit = f" {column.unit}" if column.unit else ""
        named = column_words(seen.table, self.column)
        found = []
        for value, against in pairs:
            if value == against:
                continue
            at, other = column.written(float(value)), column.written(float(against))
            difference = self.at(np.array([value, against]), seen.block)
            found.append(
                Compared(
                    label=f"{at}{unit}", against=f"{other}{unit}", comparison=f"{at} against {other}",
                    higher=f"in {{rows}} with {braced(named)} {at}{unit} as in those with {other}{unit}",
                    briefly=f"for {named} {at}{unit} against {other}{unit}",
                    values=difference[0] - difference[1],
                )
            )  # fmt: skip
        return found

    def same_form(self, other: TermForm) -> bool:
        return self.steady == other.model_copy(
            update={"changing": None, "reference": self.reference}
        )

    def typed(self, facts: ColumnFacts) -> TypedOf | None:
        return TypedOf(
            kind="number",
            field="reference",
            label="Value that others are compared with",
            value="" if self.reference is None else naming.plain(self.reference),
        )


class PolynomialTerm(CurvedTerm):
    """A number and its powers."""

    kind: Literal["polynomial"] = "polynomial"
    degree: Literal[2, 3] = 2

    @property
    def unit_label(self) -> str:
        return f"as a {DEGREE_WORDS[self.degree]} curve"

    def coded(self, rows: Rows) -> ColumnBlock:
        values = numbers_of(rows.table, self.column).values
        names = ("", "²", "³")[: self.degree]
        return ColumnBlock(
            powers(values, self.degree), tuple(_part(self.column + name) for name in names)
        )

    def at(self, values: FloatArray, block: ColumnBlock) -> FloatArray:
        return powers(values, self.degree)

    @classmethod
    def choices(cls, facts: ColumnFacts, now: TermForm) -> list[FormChoice]:
        numbers = facts.taken_as_number(now)
        if numbers is None or not numbers.at_share:
            return []
        degrees: tuple[Literal[2, 3], ...] = (2, 3)
        return [
            FormChoice(
                f"as a {DEGREE_WORDS[degree]} curve",
                cls(column=facts.name, degree=degree, reference=now.reference_value),
                "its powers",
            )
            for degree in degrees
            if numbers.distinct > degree
        ]


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

    def coded(self, rows: Rows) -> ColumnBlock:
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
        return ColumnBlock(
            found, tuple(_part(name) for name in names), tuple(float(k) for k in knots)
        )

    def at(self, values: FloatArray, block: ColumnBlock) -> FloatArray:
        return cubic_columns(values, np.array(block.knots))

    @classmethod
    def choices(cls, facts: ColumnFacts, now: TermForm) -> list[FormChoice]:
        """With as many knots as the number has values for."""
        numbers = facts.taken_as_number(now)
        if numbers is None or not numbers.at_share:
            return []
        found = []
        for knots, shares in KNOT_SHARES.items():
            at = sorted({numbers.at_share[share] for share in shares})
            if len(at) == knots:
                listed = naming.listed([facts.written(v) for v in at])
                term = cls(column=facts.name, knots=knots, reference=now.reference_value)
                note = f"a smooth curve, straight outside; knots at {listed}"
                found.append(FormChoice(f"as a spline of {knots} knots", term, note))
        return found


def _part(name: str) -> ColumnName:
    return ColumnName(name, "", "a part of its curve", name)

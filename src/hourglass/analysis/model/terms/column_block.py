"""The columns that a term puts into a model
(methods.md, section 4: Proportional hazards regression, "Coding")."""

from collections.abc import Mapping
from dataclasses import dataclass

from hourglass.cohort.table import Table
from hourglass.core.arrays import BoolArray, FloatArray
from hourglass.core.errors import HourglassError


class UnusableTermError(HourglassError):
    """A term that cannot enter the model; the message gives the reason."""


@dataclass(frozen=True, slots=True)
class ColumnName:
    """What one column of a term is called, and what it is compared with.

    ``comparison`` states that in words ("per 10", "against standard"); ``named`` is what it is called where
    its term is not named beside it.
    """

    label: str
    against: str
    comparison: str
    named: str


@dataclass(frozen=True, slots=True)
class ColumnBlock:
    """The columns of a term.

    Attributes:
        x: (n, k) values; NaN in rows without a value.
        names: what each is called.
        knots: where a curve has its knots; empty otherwise.
    """

    x: FloatArray
    names: tuple[ColumnName, ...]
    knots: tuple[float, ...] = ()


@dataclass(frozen=True, slots=True)
class Rows:
    """The rows that terms are coded for: their table, and their counts (n,) and which are used (n,).

    ``blocks`` are the columns of the terms coded so far, by the name of their column.
    """

    table: Table
    count: FloatArray
    used: BoolArray
    blocks: Mapping[str, ColumnBlock]

"""What every form of a term has, and the columns that it puts into a model
(methods.md, section 4: Proportional hazards regression, "Coding")."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Annotated, ClassVar, Literal, TypeAlias

from pydantic import Field

from hourglass.analysis.catalogue.time_functions import TIME_FUNCTIONS
from hourglass.analysis.shared import naming
from hourglass.analysis.shared.statement import one_of
from hourglass.analysis.shared.typed import Typed
from hourglass.cohort.table import NumberColumn, Table
from hourglass.core.arrays import BoolArray, FloatArray
from hourglass.core.errors import HourglassError


class UnusableTermError(HourglassError):
    """A term that cannot enter the model; the message says why."""


class Periods(Typed):
    """A ratio of its own in each period: up to the first of ``ends``, …, after the last."""

    kind: Literal["periods"] = "periods"
    ends: Annotated[
        tuple[Annotated[float, Field(gt=0, allow_inf_nan=False)], ...], Field(min_length=1)
    ]

    @property
    def label(self) -> str:
        return f"changing at {naming.listed([naming.plain(t) for t in sorted(set(self.ends))])}"


class AlongFunction(Typed):
    """A ratio that moves along a function of time."""

    kind: Literal["along"] = "along"
    function: one_of(TIME_FUNCTIONS)  # type: ignore[valid-type]

    @property
    def along(self) -> str:
        """What it moves along, in the name of a term."""
        return TIME_FUNCTIONS[self.function].along

    @property
    def label(self) -> str:
        return f"changing along {self.along}"


Changing: TypeAlias = Annotated[Periods | AlongFunction, Field(discriminator="kind")]


@dataclass(frozen=True, slots=True)
class ColumnName:
    """What one column of a term is called, and what it is compared with.

    ``told`` says that in words ("per 10", "against standard"); ``named`` is what it is called where
    its term is not named beside it.
    """

    label: str
    against: str
    told: str
    named: str


@dataclass(frozen=True, slots=True)
class Block:
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
    blocks: Mapping[str, Block]


class TermForm(Typed):
    """A term: a column in some form, its ratio the same throughout or ``changing`` over time.

    ``several`` says whether its columns can only be read together, as those of a curve can.
    """

    several: ClassVar[bool] = False
    kind: str
    column: str
    changing: Changing | None = None

    @property
    def columns(self) -> tuple[str, ...]:
        """The columns of the table that it takes its values from."""
        return (self.column,)

    @property
    def unit_label(self) -> str:
        """Per what a number's ratio is told, or in which form it enters; blank for a category."""
        return ""

    @property
    def label(self) -> str:
        """The term as it stands in the sentence."""
        change = self.changing.label if self.changing else ""
        return " ".join(word for word in (self.column, self.unit_label, change) if word)

    def coded(self, rows: Rows) -> Block:
        """Its columns.

        Raises:
            UnusableTermError: when the column cannot be coded as asked.
            NoSuchColumnError: when it is not in the table.
            NotEstimableError: when it has too few values for a curve.
        """
        raise NotImplementedError


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

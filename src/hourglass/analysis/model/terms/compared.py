"""What a form of a term states about its ratios, and of the values at which another's ratio holds."""

from collections.abc import Callable
from dataclasses import dataclass

from hourglass.analysis.model.terms.column_block import ColumnBlock
from hourglass.analysis.shared.naming import plain
from hourglass.cohort.table import NumberColumn, Table
from hourglass.core.arrays import FloatArray


@dataclass(frozen=True, slots=True, kw_only=True)
class Compared:
    """One comparison of values of a term.

    Attributes:
        label, against, comparison: as a row of the table shows them.
        higher: after "the rate was so many times as high", with "{rows}" to be put in.
        briefly: the same after "the hazard ratio was so much".
        values: (k,) the difference of the term's columns.
        within: what it holds within: a period, or a level of another term.
    """

    label: str
    against: str
    comparison: str
    higher: str
    briefly: str
    values: FloatArray
    within: str = ""


@dataclass(frozen=True, slots=True)
class Setting:
    """A value at which the ratio of another term holds: in words, and as its columns (k,)."""

    within: str
    values: FloatArray


@dataclass(frozen=True, slots=True)
class Seen:
    """A term as it was coded, and the rows that its ratios are read in.

    Attributes:
        table: of the cohort; ``block``: the term's columns.
        quartiles: gives (3,) those of its number over the rows that are fitted.
    """

    table: Table
    block: ColumnBlock
    quartiles: Callable[[], FloatArray]

    def numbers(self, name: str) -> NumberColumn:
        """A column of numbers, which it must be."""
        column = self.table.column(name)
        assert isinstance(column, NumberColumn)
        return column


def column_words(table: Table, name: str) -> str:
    """What a column is called: its label, where it has one."""
    return table.column(name).label or name


def per_words(table: Table, name: str, unit: float) -> str:
    """An increase of a column by so many of its unit, in its words."""
    of = table.column(name).unit
    return (
        f"for each increase of {column_words(table, name)} by {plain(unit)}{f' {of}' if of else ''}"
    )


def braced(words: str) -> str:
    """Words of the data, safe in a sentence that more is put into."""
    return words.replace("{", "{{").replace("}", "}}")

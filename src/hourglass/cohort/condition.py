"""Conditions on rows: clauses on columns, joined by "and" or "or", what is missing spelled out."""

from typing import Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field

from hourglass.cohort.table import Column, DateColumn, NumberColumn, Table, TextColumn
from hourglass.core.errors import HourglassError

Test = Literal[
    "is", "is not", "under", "at most", "at least", "over", "contains", "is missing", "is present"
]
ORDERED = ("under", "at most", "at least", "over")


class UnfitConditionError(HourglassError):
    """A clause that does not fit its column; the message gives the reason."""


class _FrozenModel(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")


class Clause(_FrozenModel):
    """A test of one column. ``values`` holds one value, or several for "is" and "is not"."""

    column: str
    test: Test
    values: tuple[str, ...] = Field(default=(), max_length=500)
    missing: bool = False
    """Whether a row without a value counts as fulfilling the clause."""

    def named(self) -> str:
        """The clause in words."""
        if self.test in ("is missing", "is present"):
            return f"{self.column} {self.test}"
        listed = " or ".join(v or "blank" for v in self.values)
        missing = " (or is missing)" if self.missing else ""
        return f"{self.column} {WORDS.get(self.test, self.test)} {listed}{missing}"


WORDS: dict[Test, str] = {"under": "<", "at most": "≤", "at least": "≥", "over": ">"}


class Condition(_FrozenModel):
    """Clauses, all of which must hold, or any of them."""

    join: Literal["and", "or"] = "and"
    clauses: tuple[Clause, ...] = Field(min_length=1, max_length=50)

    def named(self) -> str:
        """The condition in words."""
        return f" {self.join} ".join(clause.named() for clause in self.clauses)


def fulfilled(condition: Condition, table: Table) -> NDArray[np.bool_]:
    """(n,) True where the row fulfils the condition.

    Raises:
        NoSuchColumnError: for a column that is not there.
        UnfitConditionError: for a value that does not fit its column.
    """
    found = [_clause(clause, table.column(clause.column)) for clause in condition.clauses]
    join = np.logical_and if condition.join == "and" else np.logical_or
    return np.asarray(join.reduce(found), dtype=bool)


def _clause(clause: Clause, column: Column) -> NDArray[np.bool_]:
    gone = column.missing
    if clause.test == "is missing":
        return gone
    if clause.test == "is present":
        return ~gone
    if not clause.values:
        raise UnfitConditionError(f"give a value that {clause.column} is compared with")
    if isinstance(column, TextColumn):
        held = _text(clause, column)
    else:
        if clause.test == "contains":
            raise UnfitConditionError(f"{clause.column} is no text: “contains” does not fit it")
        held = _ordered(clause, column)
    return np.where(gone, clause.missing, held)


def _text(clause: Clause, column: TextColumn) -> NDArray[np.bool_]:
    if clause.test in ORDERED:
        raise UnfitConditionError(f"{clause.column} is text, which has no larger and smaller")
    if clause.test == "contains":
        words = [v.casefold() for v in clause.values]
        hit = [any(word in level.casefold() for word in words) for level in column.levels]
    else:
        wanted = set(clause.values)
        hit = [level in wanted for level in column.levels]
    found = np.array([*hit, False])[column.codes]
    return ~found if clause.test == "is not" else found


def _ordered(clause: Clause, column: NumberColumn | DateColumn) -> NDArray[np.bool_]:
    values = [_value(text, column) for text in clause.values]
    data = column.values if isinstance(column, NumberColumn) else column.microseconds
    with np.errstate(invalid="ignore"):
        match clause.test:
            case "under":
                return np.asarray(data < values[0])
            case "at most":
                return np.asarray(data <= values[0])
            case "at least":
                return np.asarray(data >= values[0])
            case "over":
                return np.asarray(data > values[0])
            case "is not":
                return ~np.isin(data, values)
            case _:
                return np.isin(data, values)


def _value(text: str, column: NumberColumn | DateColumn) -> float:
    try:
        if isinstance(column, NumberColumn):
            value = float(text)
        else:
            moment = np.datetime64(text.strip().replace(" ", "T"), "us")
            value = float(moment.astype(np.int64)) if not np.isnat(moment) else np.nan
        if not np.isfinite(value):
            raise ValueError
    except ValueError:
        what = "a number" if isinstance(column, NumberColumn) else "a date such as 2021-04-30"
        raise UnfitConditionError(f"“{text}” is not {what}, as {column.name} needs") from None
    return value

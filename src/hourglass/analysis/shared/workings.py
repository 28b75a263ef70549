"""The form of all workings."""

from typing import Literal

import numpy as np

from hourglass.analysis.typed import Typed

Cell = float | int | str | None


class Column(Typed):
    """A column of the table of terms."""

    key: str
    label: str
    form: Literal["whole", "decimal", "text"] = "decimal"


class Workings(Typed):
    """How a figure arose.

    Attributes:
        title: the figure and its value.
        formula: lines, from the definition to the value, with numbers put in.
        columns, rows: the terms it is summed from; cells keep full precision.
        marked: the row the figure is read from, if one.
        note: where the definition comes from, and what to mind.
    """

    title: str
    formula: list[str]
    columns: list[Column]
    rows: list[list[Cell]]
    marked: int | None = None
    note: str = ""


class NoWorkingsError(LookupError):
    """There is no such figure; the message says which."""


def whole(key: str, label: str) -> Column:
    """A column of whole numbers."""
    return Column(key=key, label=label, form="whole")


def decimal(key: str, label: str) -> Column:
    """A column of decimal numbers."""
    return Column(key=key, label=label)


def table_of(*columns: np.ndarray) -> list[list[Cell]]:
    """Rows from arrays; what is not defined stays blank."""
    return [[_cell(v) for v in row] for row in zip(*(c.tolist() for c in columns), strict=True)]


def _cell(value: float | int | str) -> Cell:
    if isinstance(value, float):
        return value if np.isfinite(value) else None
    return value


def digits(value: float | None) -> str:
    """A number in a formula: seven significant digits."""
    return "—" if value is None else f"{value:.7g}".replace("-", "−", 1)

"""A cell: a number worded once, with the value behind it."""

from typing import TypeAlias

from pydantic import Field, JsonValue

from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.frozen_model import FrozenModel, number
from hourglass.analysis.shared.verdict import Verdict

Raw: TypeAlias = str | int | float | None


class WorkingsOf(FrozenModel):
    """The workings that a number opens: their key and parameters."""

    figure: str
    about: dict[str, JsonValue] = Field(default_factory=dict)


class CellLimits(FrozenModel):
    """The limits of an estimate, in its unit; null where one is infinite, not reached or not defined."""

    lower: float | None
    upper: float | None


class Cell(FrozenModel):
    """What is read, and the value behind it.

    Attributes:
        text: as it is shown; ``below`` is shown under it, more quietly.
        raw: the value at full precision, for copying and for other programs; ``limits`` are its own.
        exact: the value in more digits than are shown, for who points at it.
        note: for other programs, why a value or a limit is not there.
        repeats: it shows what belongs to the cell before it, and is no value of its own.
        tone: of the group that it belongs to; ``strong`` where it should catch the eye.
        verdict: shown as a shape before the text.
        wordy: a sentence in place of figures: it runs over the cells to its right.
        workings: what it opens.
    """

    text: str
    raw: Raw = None
    limits: CellLimits | None = None
    exact: str = ""
    note: str = ""
    repeats: bool = False
    below: str = ""
    tone: int | None = None
    strong: bool = False
    verdict: Verdict | None = None
    wordy: bool = False
    workings: WorkingsOf | None = None


def words(text: str, **more: object) -> Cell:
    """A cell of words."""
    return Cell.model_validate({"text": text, "raw": text, **more})


def whole(n: int, **more: object) -> Cell:
    """A whole number."""
    return Cell.model_validate({"text": formatting.grouped(n), "raw": n, **more})


def count_with_share(n: int, total: int) -> Cell:
    """A number of a total, with its share: "81 (46.0%)"."""
    share = n / total if total else 0.0
    return Cell(text=f"{formatting.grouped(n)} ({formatting.percent(share)})", raw=n)


def number_cell(text: str, value: float | None, **more: object) -> Cell:
    """A number that is worded already."""
    return Cell.model_validate({"text": text, "raw": number(value), **more})


def p_cell(p: float | None, **more: object) -> Cell:
    """A p, with its exact value on demand."""
    return number_cell(formatting.p_value(p), p, exact=formatting.exact_p(p), **more)


def estimate(
    text: str, value: float | None, lower: float | None, upper: float | None, **more: object
) -> Cell:
    """An estimate that is worded already, with its limits."""
    limits = CellLimits(lower=number(lower), upper=number(upper))
    return Cell.model_validate({"text": text, "raw": number(value), "limits": limits, **more})


def limits_shown(text: str) -> Cell:
    """The limits of the estimate in the cell before, in words."""
    return Cell(text=text, raw=text, repeats=True)


def missing_note(**values: float | None) -> str:
    """For other programs, which of some values are not reached."""
    return "; ".join(f"{name} not reached" for name, value in values.items() if value is None)

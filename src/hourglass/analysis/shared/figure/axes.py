"""Axes: what is measured along them, and how their ticks are worded."""

from collections.abc import Callable
from typing import Literal

from pydantic import Field

from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.figure.ticks import Tick, even_ticks, ratio_ticks
from hourglass.analysis.shared.frozen_model import FrozenModel

Form = Literal["time", "percent", "points", "number", "ratio", "category"]


class Axis(FrozenModel):
    """An axis from ``low`` to ``high``.

    Attributes:
        form: a time; shares in percent; differences of shares in points; numbers; ratios, drawn by
            their logarithm; or categories, of which the k-th lies at k.
        signed: whether a number above 0 has a plus.
        label: what is measured; blank where a title states it.
        unit: of a time.
        categories: their names.
        step: between ticks, where somebody requested one.
        ticks: from many to few; filled in when the figure is drawn.
    """

    low: float
    high: float
    form: Form
    signed: bool = False
    label: str = ""
    unit: str = ""
    categories: list[str] = Field(default_factory=list)
    step: float | None = None
    ticks: list[list[Tick]] = Field(default_factory=list)

    @property
    def logarithmic(self) -> bool:
        """Whether places lie by their logarithm."""
        return self.form == "ratio"

    def ticked(self) -> "Axis":
        """The axis with its ticks."""
        return self.model_copy(update={"ticks": _ticks(self)})

    def between(self, low: float, high: float) -> "Axis":
        """The axis from one place to another."""
        return self.model_copy(update={"low": low, "high": high})


def _ticks(axis: Axis) -> list[list[Tick]]:
    if axis.form == "category":
        return [[Tick(at=k, label=label) for k, label in enumerate(axis.categories)]]
    if axis.form == "ratio":
        return ratio_ticks(axis.low, axis.high)
    if axis.form == "points":  # rounded as points, placed as shares
        step = None if axis.step is None else 100 * axis.step
        levels = even_ticks(100 * axis.low, 100 * axis.high, _signed, step=step)
        return [[Tick(at=t.at / 100, label=t.label) for t in level] for level in levels]
    if axis.form == "percent":
        step = None if axis.step is None else 100 * axis.step
        levels = even_ticks(100 * axis.low, 100 * axis.high, _percent, step=step)
        return [[Tick(at=t.at / 100, label=t.label) for t in level] for level in levels]
    word: Callable[[float, int], str] = _signed if axis.signed else formatting.rounded
    return even_ticks(axis.low, axis.high, word, months=axis.unit == "months", step=axis.step)


def ticked_word(axis: Axis, at: float) -> str:
    """A place on an axis of shares or numbers, with the digits it needs."""
    if axis.form == "percent":
        return f"{formatting.plain(round(100 * at, 9))}%"
    return formatting.plain(round(at, 12))


def _percent(value: float, decimals: int) -> str:
    return f"{formatting.rounded(value, decimals)}%"


def _signed(value: float, decimals: int) -> str:
    text = formatting.rounded(value, decimals)
    return f"+{text}" if value > 0 and text.strip("0.") else text

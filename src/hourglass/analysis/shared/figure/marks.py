"""What a track can draw. A tone is a place in the order of groups (0 the reference); −1 is ink.

Every kind is a class here, a line in ``MARKS``, a drawing in the client's ``tracks/marks`` and one in
``report/print/marks``.
"""

from typing import Annotated, Literal, TypeAlias

import numpy as np
from pydantic import Field

from hourglass.analysis.shared.cell import WorkingsOf
from hourglass.analysis.shared.frozen_model import FrozenModel, Values
from hourglass.analysis.shared.ink import INK
from hourglass.core.arrays import FloatArray

Glyph = Literal["tick", "dot", "disc", "ring", "diamond", "cross"]


class Mark(FrozenModel):
    """What all marks have.

    Attributes:
        label, tone: its name and tone; a ``ghost`` is drawn faintly behind others.
        dash: the tone whose dash its line has, where that is another.
        part: the part of its track that it belongs to, by id, where it can be switched off.
    """

    label: str
    tone: int = INK
    ghost: bool = False
    dash: int | None = None
    part: str = ""


class Line(Mark):
    """A line that ends where it is no longer defined; a step line holds its value from each x on.

    ``end`` is where a step line's last value ends; ``named`` states whether its end bears its name.
    """

    kind: Literal["line"] = "line"
    x: Values
    y: Values
    step: bool = True
    end: float | None = None
    named: bool = False


class Area(Mark):
    """A band between two lines, ``low`` and ``high``, ending where either does; areas may be stacked.

    ``fill`` is how strongly it is filled; a hatched one is hatched instead. ``caption`` stands in it.
    """

    kind: Literal["area"] = "area"
    x: Values
    low: Values
    high: Values
    step: bool = True
    end: float | None = None
    fill: Literal["faint", "full"] = "faint"
    hatched: bool = False
    caption: str = ""


class Bars(Mark):
    """Error bars from ``low`` to ``high``, across (``upright``) or along the horizontal axis, at ``at``.

    A limit past the axis is drawn as an arrow at its edge.
    """

    kind: Literal["bars"] = "bars"
    at: Values
    low: Values
    high: Values
    upright: bool = True


class Points(Mark):
    """Single points.

    Attributes:
        rows: the number of the row, or of what else ``stand_for`` names, that each stands for; empty
            where it stands for none.
        opens: the workings that a point opens, its row put in; None where it opens none.
        of: how many there are, where not all are drawn.
    """

    kind: Literal["points"] = "points"
    glyph: Glyph
    x: Values
    y: Values
    rows: list[int] = Field(default_factory=list)
    stand_for: str = "row"
    opens: WorkingsOf | None = None
    of: int | None = None


class Rule(Mark):
    """A straight line through the whole track at ``at``: level, or ``upright``."""

    kind: Literal["rule"] = "rule"
    at: float
    upright: bool = False
    dashed: bool = False


class Region(Mark):
    """A hatched part of the track, from one place on the horizontal axis to another."""

    kind: Literal["region"] = "region"
    low: float
    high: float


class Histogram(Mark):
    """Bars of ``heights`` (m,) between ``edges`` (m + 1,)."""

    kind: Literal["histogram"] = "histogram"
    edges: Values
    heights: Values


class Inset(Mark):
    """Words at a place in the track; ``label`` is what they state."""

    kind: Literal["inset"] = "inset"
    x: float
    y: float
    anchor: Literal["start", "middle", "end"] = "start"


MARKS = (Line, Area, Bars, Points, Rule, Region, Histogram, Inset)
AnyMark: TypeAlias = Annotated[
    Line | Area | Bars | Points | Rule | Region | Histogram | Inset, Field(discriminator="kind")
]


class CountRow(FrozenModel):
    """Numbers of a group, such as that at risk. Drawn, it holds the numbers at the ticks alone.

    Attributes:
        rule: whether a ``number`` holds "until" and with its ``time``, and is 0 past the last, or
            "from" its time on, and is 0 before the first.
    """

    label: str
    tone: int
    rule: Literal["until", "from"] = "until"
    time: Values
    number: Values

    def at(self, times: FloatArray) -> FloatArray:
        """(m,) the numbers at some times."""
        if self.rule == "from":
            return np.append(0.0, self.number)[np.searchsorted(self.time, times, side="right")]
        return np.append(self.number, 0.0)[np.searchsorted(self.time, times, side="left")]


def step_line(label: str, tone: int, x: FloatArray, y: FloatArray, end: float) -> Line:
    """A step line whose end bears its name."""
    return Line(label=label, tone=tone, x=x, y=y, end=end, named=True)


def step_area(
    label: str, tone: int, x: FloatArray, low: FloatArray, high: FloatArray, end: float
) -> Area:
    """A step band."""
    return Area(label=label, tone=tone, x=x, low=low, high=high, end=end)

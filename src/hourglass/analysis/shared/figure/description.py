"""A figure as a description: tracks over one horizontal axis, for a screen, a printer and a table.

A description holds all points; ``drawing`` thins it to what a pixel can show.
"""

from typing import Literal

import numpy as np
from pydantic import Field

from hourglass.analysis.shared.cell import Cell
from hourglass.analysis.shared.figure.axes import Axis
from hourglass.analysis.shared.figure.marks import AnyMark, CountRow
from hourglass.analysis.shared.figure.series import Series
from hourglass.analysis.shared.frozen_model import FrozenModel
from hourglass.analysis.shared.verdict import Verdict
from hourglass.core.arrays import FloatArray


class Handle(FrozenModel):
    """A line that is dragged, and the place in a statement that it is bound to.

    Attributes:
        decimals: of what is put there; six digits where it is None.
        tried: whether the curves follow while it is dragged.
    """

    label: str
    at: float
    upright: bool = True
    field: str
    decimals: int | None = None
    tried: bool = False


class TextColumn(FrozenModel):
    """Cells beside a track, one for each of its categories."""

    head: str
    side: Literal["left", "right"] = "right"
    cells: list[Cell | None]
    share: int = 10


class Panel(FrozenModel):
    """One of several strips side by side on common axes."""

    title: str
    tone: int = -1
    marks: list[AnyMark]


class TrackPart(FrozenModel):
    """What can be switched off in a track: the marks that name it as their part.

    Attributes:
        note: how to read it.
        shown: whether it is drawn.
    """

    id: str
    label: str
    note: str = ""
    shown: bool = True


class Level(FrozenModel):
    """A value of a category, as it is shown."""

    column: str
    level: str


class FigureGroup(FrozenModel):
    """A group that a figure draws: its tone, and the levels it is made of, where it is made of levels.

    ``key`` distinguishes it from every other group of the study.
    """

    key: str
    label: str
    tone: int
    levels: list[Level] = Field(default_factory=list)


class Track(FrozenModel):
    """One strip of a figure.

    Attributes:
        verdict: shown as a shape before its words.
        across: its own horizontal axis, where it does not share that of the figure.
        grouped: whether its tones are those of the figure's groups; else of something else, such as causes.
        shown: whether it is there before anybody has chosen; else it is offered.
        drawn: False where its marks have been left out, until somebody requests it.
        height: a share of the room that curves have; None is as high as it needs to be.
        marks: what it draws, from behind to the front.
        panels: in place of marks, several strips side by side; ``abreast`` is for how many there is room,
            0 for as many as there are.
        parts: what of its marks can be switched off.
        counts: numbers under the ticks, in place of an axis.
        columns: cells beside its categories.
        handles: what can be dragged.
    """

    id: str
    title: str
    subtitle: str = ""
    verdict: Verdict | None = None
    verdict_words: str = ""
    axis: Axis | None = None
    across: Axis | None = None
    grouped: bool = True
    shown: bool = True
    drawn: bool = True
    height: Literal["room", "strip"] = "strip"
    marks: list[AnyMark] = Field(default_factory=list)
    panels: list[Panel] = Field(default_factory=list)
    abreast: int = 0
    parts: list[TrackPart] = Field(default_factory=list)
    counts: list[CountRow] = Field(default_factory=list)
    columns: list[TextColumn] = Field(default_factory=list)
    handles: list[Handle] = Field(default_factory=list)
    note: str = ""

    @property
    def notes(self) -> str:
        """How to read it, with the parts that are drawn."""
        parts = (part.note for part in self.parts if part.shown)
        return " ".join(note for note in (self.note, *parts) if note)

    def drawn_of(self, marks: list[AnyMark]) -> list[AnyMark]:
        """Its marks, or those of a panel, without the parts that are switched off."""
        off = {part.id for part in self.parts if not part.shown}
        return [mark for mark in marks if mark.part not in off] if off else marks


class TimeLine(FrozenModel):
    """What the sand line needs of a figure over time.

    Attributes:
        unit, decimals: of time, and how many decimals its values have.
        events: the distinct event times, for stepping from one to the next.
        start: where the sand line stands before anybody has moved it.
    """

    unit: str
    decimals: int
    events: Series
    start: float | None = None


class Figure(FrozenModel):
    """Tracks over one horizontal axis; ``name`` states in a sentence what it shows.

    Attributes:
        across: the horizontal axis, as far as it is drawn; ``low`` and ``high`` are its whole extent.
        time: where the axis is time, what the sand line needs.
        groups: those that its tones distinguish.
        note: how to read it.
    """

    name: str
    across: Axis
    low: float
    high: float
    time: TimeLine | None = None
    groups: list[FigureGroup] = Field(default_factory=list)
    tracks: list[Track]
    note: str = ""

    def track(self, id: str) -> Track | None:
        """The track of that id."""
        return next((track for track in self.tracks if track.id == id), None)


def _reach(values: FloatArray) -> float:
    """The largest finite value, whatever its sign."""
    ends = float(values.max(initial=0.0)), float(values.min(initial=0.0))
    if not np.isfinite(ends).all():
        finite = values[np.isfinite(values)]
        ends = float(finite.max(initial=0.0)), float(finite.min(initial=0.0))
    return max(ends[0], -ends[1])


def symmetric(*values: FloatArray) -> tuple[float, float]:
    """A domain around 0 that holds all finite values, with a little air."""
    reach = max((_reach(v) for v in values), default=0.0) or 1.0
    return -1.08 * reach, 1.08 * reach

"""How somebody has arranged a figure: tracks with other axes, groups hidden, in front or in another tone.

Nothing of it changes a number; an axis that does not begin where its values could has a mark.
"""

import math
from collections.abc import Collection, Sequence
from dataclasses import dataclass
from typing import Annotated

import numpy as np
from pydantic import Field

from hourglass.analysis.shared.figure.axes import Axis, ticked_word
from hourglass.analysis.shared.figure.description import Figure, Track
from hourglass.analysis.shared.figure.marks import AnyMark, Area, Bars, Line, Points
from hourglass.analysis.shared.figure.tones import TONES
from hourglass.analysis.shared.frozen_model import FrozenModel

View = Annotated[str, Field(max_length=100)]
Views = Annotated[list[View], Field(max_length=50)]
Length = Annotated[float, Field(gt=0, allow_inf_nan=False)]
STEPS = 8
"""An axis from the data begins at a whole one of about so many steps that its values span."""
FITTED = frozenset(("percent", "points", "number"))


class ShownTrack(FrozenModel):
    """A track that a view shows.

    Attributes:
        height: how high somebody has made it, in pixels.
        proportion: shares as proportions in place of percent.
        fitted: the axis as long as its values need, in place of all that they could be.
        every: the length between the ticks of the horizontal axis.
        switched: the parts that are not as they are at first: switched off, or on.
    """

    id: Annotated[str, Field(max_length=200)]
    height: Annotated[float | None, Field(gt=0, le=10_000)] = None
    proportion: bool = False
    fitted: bool = False
    every: Length | None = None
    switched: Annotated[list[Annotated[str, Field(max_length=100)]], Field(max_length=20)] = Field(
        default_factory=list
    )


class GroupStyle(FrozenModel):
    """How a group is drawn: its tone and dash in every view; in some hidden, in front, without interval."""

    group: Annotated[str, Field(max_length=1000)]
    tone: Annotated[int | None, Field(ge=0, lt=len(TONES["groups"]))] = None
    dash: Annotated[int | None, Field(ge=0, lt=len(TONES["groups"]))] = None
    hidden: Views = Field(default_factory=list)
    front: Views = Field(default_factory=list)
    bare: Views = Field(default_factory=list)


@dataclass(frozen=True, slots=True)
class Arrangement:
    """How the tracks of a figure are drawn.

    Attributes:
        proportion: those with proportions in place of percent; ``fitted``: those whose axes come from
            their data.
        switched: parts that are not as they are at first, each by :func:`place_of_part`.
        every: how far apart the ticks of the horizontal axis stand.
    """

    proportion: Collection[str] = ()
    fitted: Collection[str] = ()
    switched: Collection[str] = ()
    every: float | None = None


def place_of_part(track: str, part: str) -> str:
    """The name of a part among those of all tracks."""
    return f"{track}/{part}"


def arrangement_of(shown: Sequence[ShownTrack]) -> Arrangement:
    """How the tracks are drawn that a view shows."""
    return Arrangement(
        [track.id for track in shown if track.proportion],
        [track.id for track in shown if track.fitted],
        [place_of_part(track.id, part) for track in shown for part in track.switched],
        next((track.every for track in shown if track.every), None),
    )


def arranged(figure: Figure, how: Arrangement) -> Figure:
    """The figure with its axes as somebody wants them."""
    across = figure.across
    if how.every is not None:
        across = across.model_copy(update={"step": how.every})
    tracks = [_arranged(track, how) for track in figure.tracks]
    return figure.model_copy(update={"across": across, "tracks": tracks})


def _arranged(whole: Track, how: Arrangement) -> Track:
    track = _switched(whole, how)
    axis = track.axis
    if axis is None:
        return track
    if track.id in how.fitted and axis.form in FITTED:
        axis = _fitted(track, axis)
    if track.id in how.proportion and axis.form == "percent":
        axis = axis.model_copy(update={"form": "number"})
    if axis is track.axis:
        return track
    begins = ""
    if axis.form != "points" and track.axis is not None and axis.low > track.axis.low:
        begins = f"axis from {ticked_word(axis, axis.low)}"
    words = "; ".join(word for word in (track.subtitle, begins) if word)
    return track.model_copy(update={"axis": axis, "subtitle": words})


def _switched(track: Track, how: Arrangement) -> Track:
    """The track with its parts as somebody has switched them."""
    parts = [
        part.model_copy(update={"shown": not part.shown})
        if place_of_part(track.id, part.id) in how.switched
        else part
        for part in track.parts
    ]
    return track if parts == track.parts else track.model_copy(update={"parts": parts})


def _fitted(track: Track, axis: Axis) -> Axis:
    """From the whole step at or below its least value to the one at or above its largest."""
    every = [*track.marks, *(mark for panel in track.panels for mark in panel.marks)]
    marks = track.drawn_of(every)
    values = np.concatenate([np.zeros(0), *(height for mark in marks for height in _heights(mark))])
    values = values[np.isfinite(values)]
    if not values.size:
        return axis
    low, high = float(values.min()), float(values.max())
    step = _whole_step((high - low) or abs(high) or 1.0)
    low, high = step * math.floor(low / step), step * math.ceil(high / step)
    if high == low:
        low, high = low - step, high + step
    if axis.form == "percent":
        low, high = max(low, 0.0), min(high, 1.0)
    return axis.between(low, high)


def _whole_step(span: float) -> float:
    """The largest 1, 2 or 5 times a power of ten that is an eighth of the span or less."""
    aim = span / STEPS
    power: float = 10.0 ** math.floor(math.log10(aim))
    return max((m * power for m in (1, 2, 5) if m * power <= aim), default=power)


def _heights(mark: AnyMark) -> Sequence[np.ndarray]:
    match mark:
        case Line() | Points():
            return (mark.y,)
        case Area():
            return mark.low, mark.high
        case Bars(upright=True):
            return mark.low, mark.high
    return ()


def styled(figure: Figure, group_styles: Sequence[GroupStyle], view: str) -> Figure:
    """The figure of a view with its groups as somebody wants them drawn."""
    tones = {group.key: group.tone for group in figure.groups}
    own = {tones[style.group]: style for style in group_styles if style.group in tones}
    if not own:
        return figure
    return figure.model_copy(update={"tracks": [_styled(t, own, view) for t in figure.tracks]})


def _styled(track: Track, group_styles: dict[int, GroupStyle], view: str) -> Track:
    panels = [
        panel.model_copy(
            update={
                "tone": _tone(panel.tone, group_styles),
                "marks": _marks(panel.marks, group_styles, view) if track.grouped else panel.marks,
            }
        )
        for panel in track.panels
        if not _is(panel.tone, group_styles, view, "hidden")
    ]
    if not track.grouped:
        return track.model_copy(update={"panels": panels})
    counts = [
        row.model_copy(update={"tone": _tone(row.tone, group_styles)})
        for row in track.counts
        if not _is(row.tone, group_styles, view, "hidden")
    ]
    marks = _marks(track.marks, group_styles, view)
    return track.model_copy(update={"marks": marks, "counts": counts, "panels": panels})


def _marks(marks: list[AnyMark], group_styles: dict[int, GroupStyle], view: str) -> list[AnyMark]:
    kept = [
        mark
        for mark in marks
        if not _is(mark.tone, group_styles, view, "hidden")
        and not (isinstance(mark, Area | Bars) and _is(mark.tone, group_styles, view, "bare"))
    ]
    behind = [mark for mark in kept if not _is(mark.tone, group_styles, view, "front")]
    front = [mark for mark in kept if _is(mark.tone, group_styles, view, "front")]
    return [m.model_copy(update=_drawn(m.tone, group_styles)) for m in (*behind, *front)]


def _drawn(tone: int, group_styles: dict[int, GroupStyle]) -> dict[str, int]:
    """The tone and dash of what belongs to a group, as far as somebody has chosen them."""
    style, made = group_styles.get(tone), {"tone": _tone(tone, group_styles)}
    return made if style is None or style.dash is None else {**made, "dash": style.dash}


def _tone(tone: int, group_styles: dict[int, GroupStyle]) -> int:
    style = group_styles.get(tone)
    return tone if style is None or style.tone is None else style.tone


def _is(tone: int, group_styles: dict[int, GroupStyle], view: str, what: str) -> bool:
    style = group_styles.get(tone)
    return style is not None and view in getattr(style, what)

"""How a figure is printed: what somebody may choose."""

from collections.abc import Sequence
from typing import Annotated, Literal

from pydantic import Field

from hourglass.analysis.shared.figure.figure_settings import (
    Arrangement,
    ShownTrack,
    View,
    arrangement_of,
)
from hourglass.analysis.shared.figure.tones import Preset
from hourglass.analysis.shared.frozen_model import FrozenModel

Words = Annotated[str, Field(max_length=300)]


class PageSettings(FrozenModel):
    """How figures of any study may be printed: a preset has these.

    Attributes:
        width, height: in mm; without a height a figure is as high as its tracks need.
        dpi: pixels in an inch, for PNG.
        font: size of its words in points.
        preset: which tones.
        at_risk: whether numbers at risk are printed.
        caption: whether the statement and how to read the tracks are printed under it.
    """

    width: Annotated[float, Field(ge=40, le=600)] = 170
    height: Annotated[float, Field(ge=30, le=900)] | None = None
    dpi: Annotated[int, Field(ge=50, le=1200)] = 300
    font: Annotated[float, Field(ge=4, le=24)] = 8
    preset: Preset = "house"
    at_risk: bool = True
    caption: bool = False


class FigurePreset(FrozenModel):
    """Settings kept for the figures of all studies, under a name."""

    name: Annotated[str, Field(min_length=1, max_length=100)]
    settings: PageSettings


class PrintSettings(PageSettings):
    """The settings of one printed figure.

    Attributes:
        title: above it; ``across``: of the horizontal axis, if not the figure's own words.
        titles: of tracks, by id; ``labels``: of groups, by their own label.
        tick_step: between ticks of the horizontal axis.
        tracks: which, in this order; those shown at first when None.
        proportion, fitted: which tracks show proportions, and have axes from their data.
        switched: parts of tracks that are not as they are at first.
        view: the view it is a figure of, which states how its groups are drawn.
        low, high: the part of the horizontal axis; the whole when None.
    """

    title: Words = ""
    across: Words = ""
    titles: dict[str, Words] = Field(default_factory=dict)
    labels: dict[str, Words] = Field(default_factory=dict)
    tick_step: Annotated[float, Field(gt=0, allow_inf_nan=False)] | None = None
    tracks: list[str] | None = None
    proportion: list[str] = Field(default_factory=list)
    fitted: list[str] = Field(default_factory=list)
    switched: list[str] = Field(default_factory=list)
    view: View = ""
    low: Annotated[float, Field(allow_inf_nan=False)] | None = None
    high: Annotated[float, Field(allow_inf_nan=False)] | None = None

    @property
    def arrangement(self) -> Arrangement:
        """How its tracks are drawn."""
        return Arrangement(self.proportion, self.fitted, self.switched, self.tick_step)

    def arranged(self, shown: Sequence[ShownTrack], view: str) -> "PrintSettings":
        """The settings with the tracks drawn as a view shows them."""
        how = arrangement_of(shown)
        return self.model_copy(
            update={
                "view": view,
                "proportion": list(how.proportion),
                "fitted": list(how.fitted),
                "switched": list(how.switched),
                "tick_step": self.tick_step or how.every,
            }
        )


FileFormat = Literal["svg", "pdf", "png"]

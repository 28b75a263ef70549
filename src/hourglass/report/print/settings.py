"""How a figure is printed: what somebody may choose."""

from typing import Annotated, Literal

from pydantic import Field

from hourglass.analysis.shared.figure.arranging import View
from hourglass.analysis.shared.figure.tones import Preset
from hourglass.analysis.shared.typed import Typed

Words = Annotated[str, Field(max_length=300)]


class PrintSettings(Typed):
    """Size, words and tones of a printed figure.

    Attributes:
        width, height: in mm; without a height the figure is as high as its tracks need.
        dpi: pixels in an inch, for PNG.
        font: size of its words in points.
        title: above it; ``across``: of the horizontal axis, if not the figure's own words.
        titles: of tracks, by id; ``labels``: of groups, by their own label.
        preset: which tones.
        tick_step: between ticks of the horizontal axis.
        at_risk: whether numbers at risk are printed.
        caption: under it, the statement as a sentence, and how to read the tracks.
        tracks: which, in this order; those shown at first when None.
        proportion, fitted: which tracks tell proportions, and have axes from their data.
        view: the view it is a figure of, which says how its groups are drawn.
        low, high: the part of the horizontal axis; the whole when None.
    """

    width: Annotated[float, Field(ge=40, le=600)] = 170
    height: Annotated[float, Field(ge=30, le=900)] | None = None
    dpi: Annotated[int, Field(ge=50, le=1200)] = 300
    font: Annotated[float, Field(ge=4, le=24)] = 8
    title: Words = ""
    across: Words = ""
    titles: dict[str, Words] = Field(default_factory=dict)
    labels: dict[str, Words] = Field(default_factory=dict)
    preset: Preset = "house"
    tick_step: Annotated[float, Field(gt=0, allow_inf_nan=False)] | None = None
    at_risk: bool = True
    caption: bool = False
    tracks: list[str] | None = None
    proportion: list[str] = Field(default_factory=list)
    fitted: list[str] = Field(default_factory=list)
    view: View = ""
    low: Annotated[float, Field(allow_inf_nan=False)] | None = None
    high: Annotated[float, Field(allow_inf_nan=False)] | None = None


FileFormat = Literal["svg", "pdf", "png"]

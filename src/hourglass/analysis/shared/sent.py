"""A result as it is sent, and what more of it can be requested: the whole figure and the long series."""

from collections.abc import Callable
from typing import TypeAlias, TypeVar

from pydantic import Field

from hourglass.analysis.shared.figure.description import Figure
from hourglass.analysis.shared.figure.drawing import drawn
from hourglass.analysis.shared.figure.series import Series
from hourglass.analysis.shared.frozen_model import FrozenModel
from hourglass.analysis.shared.result import StageResult
from hourglass.analysis.shared.sections import ContentBlock, Section, TimedTable

R = TypeVar("R", bound=StageResult)
SendSeries: TypeAlias = Callable[[Series], Series]


MAX_SENT_WHOLE = 12_000
"""So many numbers at full precision weigh about 100 kB in an answer."""


class Drawing(FrozenModel):
    """The whole figure of a result, with all its points, and its series with all their times."""

    figure: Figure | None = None
    series: list[Series] = Field(default_factory=list)


def sent(found: R, key: str) -> tuple[R, Drawing | None]:
    """A result as it is sent, and what further requests are answered from, which they ask for by a key.

    The figure is drawn as at first; series too long for one answer are announced, and sent by the page.
    """
    gathered = _series(found)
    whole = found.figure
    if whole is None and not gathered:
        return found, None
    light = sum(one.numbers for one in gathered) <= MAX_SENT_WHOLE

    def sent_series(series: Series) -> Series:
        key = next(k for k, one in enumerate(gathered) if one is series)
        return series.sent(key, whole=light)

    sections = [_section(section, sent_series) for section in found.sections]
    figure = None if whole is None else sent_figure(drawn(whole), sent_series)
    reduced = found.model_copy(update={"figure": figure, "sections": sections, "drawing": key})
    return reduced, Drawing(figure=whole, series=gathered)


def _series(found: StageResult) -> list[Series]:
    """Every series of a result: those of its tables, and its event times."""
    series = [
        one
        for section in found.sections
        for block in section.blocks
        if isinstance(block, TimedTable)
        for one in block.series
    ]
    time = None if found.figure is None else found.figure.time
    return series if time is None else [*series, time.events]


def sent_figure(figure: Figure, send: SendSeries) -> Figure:
    """A figure whose event times are announced only, where they are too many to send."""
    if figure.time is None:
        return figure
    time = figure.time.model_copy(update={"events": send(figure.time.events)})
    return figure.model_copy(update={"time": time})


def _section(section: Section, send: SendSeries) -> Section:
    blocks: list[ContentBlock] = [
        block.model_copy(update={"series": [send(one) for one in block.series]})
        if isinstance(block, TimedTable)
        else block
        for block in section.blocks
    ]
    return section.model_copy(update={"blocks": blocks})

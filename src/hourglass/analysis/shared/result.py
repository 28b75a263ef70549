"""The form of every stage's result: what a page can show without knowing the stage."""

from pydantic import Field

from hourglass.analysis.shared.cautions import Caution
from hourglass.analysis.shared.choices import Choices
from hourglass.analysis.shared.figure.description import Figure
from hourglass.analysis.shared.frozen_model import FrozenModel
from hourglass.analysis.shared.sections import Section
from hourglass.analysis.shared.sentence import Sentence


class StageResult(FrozenModel):
    """What a stage shows; a stage's own result adds what other stages and the report take from it.

    Attributes:
        line: above the statement: the cohort in a line.
        sentence: the statement in words.
        blank: why there is nothing to show; then there are no readings.
        figure: tracks over one axis, drawn as at first.
        drawing: what more of the figure, and of long series, is requested by; blank until it is sent.
        sections: the readings at the side, and what stands under the figure.
        cautions: what would mislead.
        choices: what can be chosen above the statement.
        headline: the result in a line, for the stage list.
        hint: what the workings drawer states while it is closed.
    """

    line: str
    sentence: Sentence
    blank: str | None = None
    figure: Figure | None = None
    drawing: str = ""
    sections: list[Section] = Field(default_factory=list)
    cautions: list[Caution] = Field(default_factory=list)
    choices: Choices | None = None
    headline: str
    hint: str = "choose any underlined number to see it computed, term by term"


class PartResult(FrozenModel):
    """A part of a result that takes its time: the sections it brings."""

    sections: list[Section]

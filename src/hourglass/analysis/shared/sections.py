"""Sections: the readings of a stage as data, each number worded once, here."""

from typing import Annotated, Literal, Protocol, TypeAlias

from pydantic import Field, JsonValue

from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.cell import Cell, WorkingsOf, number_cell, p_cell, words
from hourglass.analysis.shared.figure.series import Series
from hourglass.analysis.shared.frozen_model import FrozenModel


class Table(FrozenModel):
    """A small table: the first cell of a row names it.

    ``keys`` are plain names of the columns, for copying; ``head`` is empty where none is shown.
    """

    kind: Literal["table"] = "table"
    label: str
    head: list[str] = Field(default_factory=list)
    keys: list[str] = Field(default_factory=list)
    rows: list[list[Cell]]


class Words(FrozenModel):
    """A paragraph; ``quiet`` where it explains, ``items`` where it is a list.

    ``for_screen`` states that it shows what can be done there, which is not printed.
    """

    kind: Literal["words"] = "words"
    text: str = ""
    items: list[str] = Field(default_factory=list)
    quiet: bool = False
    for_screen: bool = False


class TimedCell(FrozenModel):
    """What is read of a series at the sand line: a value, the interval around it, or both.

    ``text`` is shown in its place where it does not follow the line.
    """

    text: str = ""
    form: Literal["percent", "points", "ratio", "whole"] = "whole"
    series: int = 0
    value: int | None = None
    low: int | None = None
    high: int | None = None
    workings: WorkingsOf | None = None


class TimedRow(FrozenModel):
    """A row of a table that follows the sand line."""

    label: str
    tone: int | None = None
    cells: list[TimedCell]


class Few(FrozenModel):
    """A caution where a value at the sand line is too small: the rows concerned are named after it."""

    lead: str
    sentence: str
    cell: int
    below: int


class ChosenTimes(FrozenModel):
    """The times that are shown in a table of their own, and the statement that chooses them."""

    times: list[float]
    most: int
    statement: dict[str, JsonValue]


class TimedTable(FrozenModel):
    """A table that follows the sand line; ``past`` stands where a row has no value any more.

    ``chosen`` are the times to which that of the sand line can be added, if it can.
    """

    kind: Literal["timed"] = "timed"
    label: str
    head: list[str]
    series: list[Series]
    rows: list[TimedRow]
    past: str = ""
    few: Few | None = None
    chosen: ChosenTimes | None = None


class Action(FrozenModel):
    """Something that can be done about what was found, and the sentence that offers it.

    ``do`` is "decide" (recorded with a reason), "state" (``statement`` is put, and its stage opened)
    or "open" (``stage`` is opened).
    """

    kind: Literal["action"] = "action"
    sentence: str
    label: str
    do: Literal["decide", "state", "open"]
    stage: str
    about: str = ""
    statement: dict[str, JsonValue] | None = None


class Cautions(FrozenModel):
    """Where the stage's cautions stand."""

    kind: Literal["cautions"] = "cautions"


ContentBlock: TypeAlias = Annotated[
    Table | Words | TimedTable | Action | Cautions, Field(discriminator="kind")
]


class Section(FrozenModel):
    """Readings under one heading; one that follows the sand line has its time for a heading.

    ``part`` names the part of the result that brings its blocks, where those take their time; with an
    ``offer`` it is computed when somebody takes that up.
    """

    id: str
    title: str = ""
    place: Literal["side", "main"] = "side"
    blocks: list[ContentBlock] = Field(default_factory=list)
    part: str | None = None
    offer: str = ""


def quiet(text: str) -> Words:
    """A paragraph that explains."""
    return Words(text=text, quiet=True)


class Tested(Protocol):
    """A test of chi squared; without a statistic ``blank`` gives the reason."""

    @property
    def statistic(self) -> float | None: ...
    @property
    def df(self) -> int: ...
    @property
    def p(self) -> float | None: ...
    @property
    def blank(self) -> str | None: ...


def test_row(name: Cell, test: Tested) -> list[Cell]:
    """A test's line, or why there is no test."""
    if test.statistic is None:
        return [name, words(test.blank or "", wordy=True)]
    return test_cells(name, test.statistic, test.df, test.p)


def test_cells(name: Cell, statistic: float | None, df: int, p: float | None) -> list[Cell]:
    """A test's line: name, statistic, degrees of freedom, p."""
    return [
        name,
        number_cell(formatting.statistic(statistic), statistic),
        Cell(text=str(df) if df else formatting.BLANK, raw=df),
        p_cell(p),
    ]

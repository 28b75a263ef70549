"""Sections: the readings of a stage as data, each number worded once, here."""

from collections.abc import Sequence
from typing import Annotated, Literal, TypeAlias

from pydantic import Field, JsonValue

from hourglass.analysis.shared import wording
from hourglass.analysis.shared.typed import Numbers, Typed, number
from hourglass.analysis.shared.verdict import Verdict

Raw: TypeAlias = str | int | float | None


class WorkingsOf(Typed):
    """The workings that a number opens: their key, and what they are asked with."""

    figure: str
    about: dict[str, JsonValue] = Field(default_factory=dict)


class Cell(Typed):
    """What is read, and the value behind it.

    Attributes:
        text: as it is shown; ``below`` is shown under it, more quietly.
        raw: the value at full precision, for copying and for other programs.
        tone: of the group that it belongs to; ``strong`` where it should catch the eye.
        verdict: shown as a shape before the text.
        wordy: a sentence in place of figures: it runs over the cells to its right.
        workings: what it opens.
    """

    text: str
    raw: Raw = None
    below: str = ""
    tone: int | None = None
    strong: bool = False
    verdict: Verdict | None = None
    wordy: bool = False
    workings: WorkingsOf | None = None


class Table(Typed):
    """A small table: the first cell of a row names it.

    ``keys`` are plain names of the columns, for copying; ``head`` is empty where none is shown.
    """

    kind: Literal["table"] = "table"
    label: str
    head: list[str] = Field(default_factory=list)
    keys: list[str] = Field(default_factory=list)
    rows: list[list[Cell]]


class Words(Typed):
    """A paragraph; ``quiet`` where it explains, ``items`` where it is a list."""

    kind: Literal["words"] = "words"
    text: str = ""
    items: list[str] = Field(default_factory=list)
    quiet: bool = False


class Series(Typed):
    """Values that change over time, a column each.

    Attributes:
        rule: "from": a value holds from its time on, as a curve's; "until": up to and with its time,
            as the number at risk; "between": it moves along the logarithm between its times.
        time: (K,) ascending; ``columns``: (K,) values each.
        before: the values before the first time, one a column.
        end: nothing is read past this time.
    """

    rule: Literal["from", "until", "between"]
    time: list[float]
    columns: list[Numbers]
    before: Numbers
    end: float | None = None


class TimedCell(Typed):
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


class TimedRow(Typed):
    """A row of a table that follows the sand line."""

    label: str
    tone: int | None = None
    cells: list[TimedCell]


class Few(Typed):
    """A caution where a value at the sand line is too small: the rows concerned are named after it."""

    lead: str
    sentence: str
    cell: int
    below: int


class TimedTable(Typed):
    """A table that follows the sand line; ``past`` is said where a row has no value any more."""

    kind: Literal["timed"] = "timed"
    label: str
    head: list[str]
    series: list[Series]
    rows: list[TimedRow]
    past: str = ""
    few: Few | None = None


class Action(Typed):
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


class Cautions(Typed):
    """Where the stage's cautions stand."""

    kind: Literal["cautions"] = "cautions"


Block: TypeAlias = Annotated[
    Table | Words | TimedTable | Action | Cautions, Field(discriminator="kind")
]


class Section(Typed):
    """Readings under one heading; one that follows the sand line has its time for a heading.

    ``part`` names the part of the result that brings its blocks, where those take their time.
    """

    id: str
    title: str = ""
    place: Literal["side", "main"] = "side"
    blocks: list[Block] = Field(default_factory=list)
    part: str | None = None


def words(text: str, **more: object) -> Cell:
    """A cell of words."""
    return Cell.model_validate({"text": text, "raw": text, **more})


def whole(n: int, **more: object) -> Cell:
    """A whole number."""
    return Cell.model_validate({"text": wording.grouped(n), "raw": n, **more})


def figure(text: str, value: float | None, **more: object) -> Cell:
    """A number that is worded already."""
    return Cell.model_validate({"text": text, "raw": number(value), **more})


def quiet(text: str) -> Words:
    """A paragraph that explains."""
    return Words(text=text, quiet=True)


def test_cells(name: Cell, statistic: float | None, df: int, p: float | None) -> list[Cell]:
    """A test's line: name, statistic, degrees of freedom, p."""
    return [
        name,
        figure(wording.statistic(statistic), statistic),
        Cell(text=str(df) if df else wording.BLANK, raw=df),
        figure(wording.p_value(p), p),
    ]


def rows_of(cells: Sequence[Sequence[Cell]]) -> list[list[Cell]]:
    """Rows of a table."""
    return [list(row) for row in cells]

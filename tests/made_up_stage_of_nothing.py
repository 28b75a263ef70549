"""A stage that the program does not have, of no data: what is stated of a design before there are any."""

from typing import Literal

import numpy as np
from pydantic import Field

from hourglass.analysis.shared.cell import WorkingsOf, number_cell, words
from hourglass.analysis.shared.figure.axes import Axis
from hourglass.analysis.shared.figure.description import Figure, TimeLine, Track
from hourglass.analysis.shared.figure.marks import Line
from hourglass.analysis.shared.figure.series import Series
from hourglass.analysis.shared.input import NOTHING
from hourglass.analysis.shared.numbers import Numbers
from hourglass.analysis.shared.parts import DeferredSection
from hourglass.analysis.shared.result import PartResult, StageResult
from hourglass.analysis.shared.sections import Section, Table, TimedCell, TimedRow, TimedTable
from hourglass.analysis.shared.sentence import Entry, Slot, sentence
from hourglass.analysis.shared.stage import Stage
from hourglass.analysis.shared.statement import StageStatement
from hourglass.analysis.shared.workings import ExplainedNumber, Nothing, Workings, decimal
from hourglass.report.pieces.cited import paragraph
from hourglass.report.pieces.piece import Piece, Printed

LAST = 240.0
"""Months, longer than anybody is followed in any demo."""


class FadingStatement(StageStatement):
    """How fast something fades."""

    stage: Literal["fading"] = "fading"
    version: Literal[1] = 1
    rate: float = Field(default=0.02, gt=0)
    note: str = ""


class FadingResult(StageResult):
    """What is left, and when half is."""

    half: float


def faded(value, stated, progress):
    time = np.linspace(0.0, LAST, 97)
    return time, np.exp(-stated["fading"].rate * time)


def halved(value, stated, progress):
    return float(np.log(2) / stated["fading"].rate)


def shown(numbers, value, statements):
    statement, (time, left) = statements["fading"], numbers
    slot = Slot(
        id="rate",
        label=f"{statement.rate:g}",
        title="Rate of fading",
        entry=Entry(kind="number", field="rate", label="Rate a month", value=f"{statement.rate:g}"),
    )
    series = Series(rule="between", time=time[1:], columns=[left[1:]], before=[1.0], end=LAST)
    track = Track(
        id="fading",
        title="Left",
        axis=Axis(low=0, high=1, form="percent"),
        marks=[Line(label="left", x=time, y=left, step=False, end=LAST)],
    )
    half = float(np.log(2) / statement.rate)
    worded = sentence("It fades at ", slot, " a month.")
    across = Axis(low=0, high=LAST, form="time", label="Months from now", unit="months")
    steps = TimeLine(unit="months", decimals=0, events=Series(rule="from", time=time[1:]), start=60)
    return FadingResult(
        line="Nothing is read for this",
        sentence=worded,
        figure=Figure(
            name=worded.text, across=across, low=0, high=LAST, time=steps, tracks=[track]
        ),
        sections=[
            Section(id="now", title="At this time", blocks=[at_any_time(series)]),
            Section(id="half", title="Half is left", part="half"),
        ],
        headline=f"half by {half:.1f} months",
        half=half,
    )


def at_any_time(series):
    cell = TimedCell(form="percent", series=0, value=0)
    rows = [TimedRow(label="left", cells=[cell])]
    return TimedTable(label="Left at this time", head=["", "share"], series=[series], rows=rows)


def shown_half(half, value, statements):
    opens = WorkingsOf(figure="half")
    rows = [[words("half is left after"), number_cell(f"{half:.1f}", half, workings=opens)]]
    table = Table(label="Half is left", rows=rows)
    return PartResult(sections=[Section(id="half", title="Half is left", blocks=[table])])


def worked(value, statements, about):
    rate = statements["fading"].rate
    return Workings(
        title=f"Half is left after {np.log(2) / rate:.1f} months",
        formula=(f"ln 2 / {rate:g}",),
        columns=(decimal("time", "time", np.array([np.log(2) / rate])),),
    )


def printed(found):
    return Printed(
        paragraphs=(paragraph(f"Half is left after {found.results['fading'].half:.1f} months."),)
    )


def first(value):
    return FadingStatement()


FADING = Stage(
    name="fading",
    title="Fading",
    about="What fades, without any data.",
    statement=FadingStatement,
    result=FadingResult,
    input=NOTHING,
    numbers=Numbers({"fading": ("rate",)}, faded),
    show=shown,
    reads=("fading",),
    default=first,
    parts=(
        DeferredSection(
            key="half",
            title="Half is left",
            result=PartResult,
            numbers=Numbers({"fading": ("rate",)}, halved),
            show=shown_half,
        ),
    ),
    workings=(ExplainedNumber("half", Nothing, worked),),
)
FADING_PIECE = Piece(
    key="fading",
    title="What fades",
    words="what fades",
    render=printed,
    needs=("fading",),
    offer="What fades",
)

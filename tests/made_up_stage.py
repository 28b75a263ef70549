"""A stage that the program does not have: what one is made of, on one page."""

from typing import Literal

import numpy as np

from hourglass.analysis.shared.cell import WorkingsOf, whole, words
from hourglass.analysis.shared.cohort_summary import over_follow_up, summarise
from hourglass.analysis.shared.figure.axes import Axis
from hourglass.analysis.shared.figure.description import Handle, Track
from hourglass.analysis.shared.figure.marks import step_line
from hourglass.analysis.shared.numbers import Numbers
from hourglass.analysis.shared.parts import DeferredSection
from hourglass.analysis.shared.result import PartResult, StageResult
from hourglass.analysis.shared.sections import Section, Table
from hourglass.analysis.shared.sentence import Option, Slot, sentence
from hourglass.analysis.shared.stage import Stage
from hourglass.analysis.shared.statement import StageStatement
from hourglass.analysis.shared.workings import ExplainedNumber, Nothing, Workings, decimal
from hourglass.report.pieces.cited import paragraph
from hourglass.report.pieces.piece import Piece, Printed


class TallyStatement(StageStatement):
    """How many ended, one way or the other."""

    stage: Literal["tally"] = "tally"
    version: Literal[1] = 1
    ends: Literal["events", "all"] = "events"
    until: float = 1000


class TallyResult(StageResult):
    """How many ended."""

    ended: int


def times(cohort, statement):
    data = cohort.follow_up
    return np.sort(data.exit[data.event()] if statement.ends == "events" else data.exit)


def counted(cohort, stated, progress):
    return times(cohort, stated["tally"])


def shown(found, cohort, stated):
    statement, watched = stated["tally"], cohort.follow_up
    words_of = {"events": "events", "all": "all ends"}
    slot = Slot(
        id="ends",
        label=words_of[statement.ends],
        title="Ends counted",
        options=[
            Option(label=label, field="ends", value=key, chosen=key == statement.ends)
            for key, label in words_of.items()
        ],
    )
    text = sentence("Tally ", slot, ", over time.")
    track = Track(
        id="tally",
        title="Ended so far",
        axis=Axis(low=0, high=float(found.size or 1), form="number"),
        handles=[Handle(label="Counted until", at=statement.until, field="until")],
        marks=[step_line("ended", -1, found, np.arange(1.0, found.size + 1), watched.end)],
    )
    row = [words("ended"), whole(int(found.size), workings=WorkingsOf(figure="ended"))]
    return TallyResult(
        line=summarise(cohort).line,
        sentence=text,
        figure=over_follow_up(cohort, text.text, [track], None, until=2 * watched.end),
        sections=[
            Section(id="tally", title="Tally", blocks=[Table(label="Tally", rows=[row])]),
            Section(id="slowly", title="Counted slowly", part="slowly"),
        ],
        headline=f"{found.size} ended",
        ended=int(found.size),
    )


def counted_slowly(cohort, stated, progress):
    return sum(1 for _ in times(cohort, stated["tally"]))


def shown_slowly(n, cohort, stated):
    table = Table(label="Counted slowly", rows=[[words("one by one"), whole(n)]])
    return PartResult(sections=[Section(id="slowly", title="Counted slowly", blocks=[table])])


def worked(cohort, stated, about):
    found = times(cohort, stated["tally"])
    return Workings(
        title=f"Ended: {found.size}",
        formula=("one for each time",),
        columns=(decimal("time", "time", found),),
    )


def printed(found):
    return Printed(paragraphs=(paragraph(f"In the end {found.results['tally'].ended} had ended."),))


def first(cohort):
    return TallyStatement()


TALLY = Stage(
    name="tally",
    title="Tally",
    about="How many ended.",
    statement=TallyStatement,
    result=TallyResult,
    numbers=Numbers({"tally": ("ends",)}, counted),
    show=shown,
    reads=("tally",),
    default=first,
    parts=(
        DeferredSection(
            key="slowly",
            title="Counted slowly",
            result=PartResult,
            numbers=Numbers({"tally": ("ends",)}, counted_slowly),
            show=shown_slowly,
        ),
    ),
    workings=(ExplainedNumber("ended", Nothing, worked),),
)
PIECE = Piece(
    key="tally",
    title="The tally",
    words="the tally",
    render=printed,
    needs=("tally",),
    offer="A tally",
)

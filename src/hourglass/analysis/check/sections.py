"""The readings of Check."""

import numpy as np

from hourglass.analysis.check.courses import Course
from hourglass.analysis.check.readouts import TermCheck
from hourglass.analysis.model.readouts import ChiSquared
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.cell import WorkingsOf, words
from hourglass.analysis.shared.figure.series import Series
from hourglass.analysis.shared.frozen_model import ratio_of
from hourglass.analysis.shared.section_ids import SectionId
from hourglass.analysis.shared.sections import (
    Action,
    ContentBlock,
    Section,
    Table,
    TimedCell,
    TimedRow,
    TimedTable,
    quiet,
    test_cells,
)
from hourglass.analysis.shared.verdict import doubtful
from hourglass.core.arrays import FloatArray
from hourglass.core.regression.proportionality import ProportionalityTest

LEGEND = (
    "Holds: no sign of change, p at least 0.05. In doubt: p below 0.05. Fails: p below 0.01. With few events "
    "a change may go unnoticed; with many, even a small one shows."
)
TITLE = "Test of proportional hazards"
OF_RATIOS = "Test of each ratio"


def check_sections(
    terms: list[TermCheck],
    together: ChiSquared,
    courses: list[Course],
    tested: ProportionalityTest,
    remedies: list[Action],
) -> list[Section]:
    """The test of each term, and of each ratio, those at the sand line, remedies."""
    found = [
        Section(id=SectionId.TEST, title=TITLE, blocks=[_tests(terms, together), quiet(LEGEND)]),
        Section(id=SectionId.RATIOS, title=OF_RATIOS, blocks=[_of_ratios(courses, tested)]),
        Section(id=SectionId.AT_TIME, blocks=[_at_the_sand_line(courses)]),
    ]
    if remedies:
        offered: list[ContentBlock] = [*remedies]
        found.append(Section(id=SectionId.REMEDIES, title="Remedies", blocks=offered))
    return found


def _tests(terms: list[TermCheck], together: ChiSquared) -> Table:
    lines = [
        (
            words(
                term.label, below=term.words, verdict=term.verdict, strong=doubtful(term.verdict)
            ),
            term.test,
        )
        for term in terms
    ]
    lines.append((words(together.name), together))
    return Table(
        label=TITLE,
        head=["", "χ²", "df", "p"],
        keys=["term", "chi_squared", "df", "p"],
        rows=[test_cells(name, t.statistic, t.df, t.p) for name, t in lines],
    )


def _of_ratios(courses: list[Course], tested: ProportionalityTest) -> Table:
    """A line a ratio: its own test opens the sums that it is made of."""
    rows = []
    for one in courses:
        test = tested.column[one.column]
        cells = test_cells(words(one.name), test.statistic, test.df, test.p)
        if test.statistic is not None:
            opens = WorkingsOf(figure="proportionality", about={"column": one.column})
            cells[1] = cells[1].model_copy(update={"workings": opens})
        rows.append(cells)
    return Table(
        label=OF_RATIOS,
        head=["", "χ²", "df", "p"],
        keys=["ratio", "chi_squared", "df", "p"],
        rows=rows,
    )


def _at_the_sand_line(courses: list[Course]) -> TimedTable:
    return TimedTable(
        label="Ratios at this time",
        head=["ratio", "then (smooth)", "in the model"],
        series=[_series(course) for course in courses],
        rows=[
            TimedRow(
                label=course.name,
                cells=[
                    TimedCell(form="ratio", series=k, value=0, low=1, high=2),
                    TimedCell(text=formatting.ratio(ratio_of(course.beta))),
                ],
            )
            for k, course in enumerate(courses)
        ],
    )


def _series(course: Course) -> Series:
    smooth = course.smooth
    values = () if smooth is None else (smooth.y, smooth.lower, smooth.upper)
    return Series(
        rule="between",
        time=course.time,
        columns=[_ratios(v) for v in values] or [np.empty(0)] * 3,
        before=[None, None, None],
        end=float(course.time[-1]) if course.time.size else None,
    )


def _ratios(log_ratios: FloatArray) -> FloatArray:
    return np.exp(np.clip(log_ratios, -700, 700))

"""Each variable in turn: small multiples in order, and a table with adjusted p."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from hourglass.analysis.catalogue.weights import WEIGHTS
from hourglass.analysis.compare.statement import CompareStatement
from hourglass.analysis.compare.threshold import BEFOREHAND
from hourglass.analysis.compare.variables import Variable
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.cell import Cell, WorkingsOf, number_cell, p_cell, whole, words
from hourglass.analysis.shared.cohort_summary import CohortSummary, over_follow_up
from hourglass.analysis.shared.curve_form import CurveForm
from hourglass.analysis.shared.curve_marks import curve_line
from hourglass.analysis.shared.curve_tracks import SHARE
from hourglass.analysis.shared.curves import Curve, curves_of_groups
from hourglass.analysis.shared.figure.description import Figure, Panel, Track
from hourglass.analysis.shared.figure.marks import AnyMark, Inset
from hourglass.analysis.shared.ink import INK
from hourglass.analysis.shared.section_ids import SectionId
from hourglass.analysis.shared.sections import Action, ContentBlock, Section, Table, quiet
from hourglass.cohort.followup import Cohort
from hourglass.core.arrays import IntArray
from hourglass.core.comparison.screening import Screened

MAX_PANELS = 24
"""So many variables are drawn, and no more; all are tested."""
ABREAST = 3
LEGEND_LINE = 0.15
"""The share of a panel's height that a name takes."""
MAX_NAMED = 3
"""So many groups find room for their names in a panel."""
NOTHING_CONFIRMED = (
    "A screen confirms nothing: of twenty variables without any effect one is expected below 0.05 by its raw "
    "p. What is found here needs other data, or a plan made before these were seen."
)


@dataclass(frozen=True, slots=True)
class Screening:
    """All variables, and what was found of each, the strongest first."""

    statement: CompareStatement
    form: CurveForm
    variables: tuple[Variable, ...]
    found: tuple[Screened, ...]


def screening_figure(cohort: Cohort, found: Screening, name: str) -> Figure:
    """Three variables abreast, in their order, each with its curves and its adjusted p."""
    shown = found.found[:MAX_PANELS]
    tracks = [
        Track(
            id=f"screen-{k // ABREAST}",
            title=f"{k + 1} to {min(k + ABREAST, len(shown))}",
            axis=SHARE,
            panels=[_panel(cohort, found, one) for one in shown[k : k + ABREAST]],
            abreast=ABREAST,
        )
        for k in range(0, len(shown), ABREAST)
    ]
    # Each panel has an axis of its own: no time is read across all of them.
    return over_follow_up(cohort, name, tracks, None).model_copy(update={"time": None})


def _panel(cohort: Cohort, found: Screening, one: Screened) -> Panel:
    variable = found.variables[one.place]
    p = formatting.p_phrase(one.p) if one.p is not None else "no test"
    marks: list[AnyMark] = []
    complete = variable.drawn.complete
    if complete.any():
        data = cohort.follow_up.only(complete)
        code: IntArray = variable.drawn.groups(data)
        curves = curves_of_groups(data, found.form, variable.labels, code)
        marks += [curve_line(curve) for curve in curves]
        marks += _legend(curves, data.end) if len(curves) <= MAX_NAMED else []
    return Panel(title=f"{variable.name}, {p}", tone=INK, marks=marks)


def _legend(curves: Sequence[Curve], end: float) -> list[Inset]:
    """The names of the curves, at the lower left, or at the upper right where a curve is low."""
    middle = [max(int(np.searchsorted(c.time, end / 2, side="right")) - 1, 0) for c in curves]
    lowest = min(float(c.survival[k]) for c, k in zip(curves, middle, strict=True))
    high = LEGEND_LINE * len(curves)
    x, top = (0.02 * end, high) if lowest > high else (0.5 * end, 1.0)
    return [
        Inset(label=c.label, tone=c.tone, x=x, y=top - LEGEND_LINE * (k + 0.6))
        for k, c in enumerate(curves)
    ]


def screening_sections(summary: CohortSummary, found: Screening) -> list[Section]:
    """The table of all variables tested, each with an action that opens its comparison."""
    weight = WEIGHTS[found.statement.weight]
    rows = [_row(found, one) for one in found.found]
    table = Table(
        label="Each variable in turn",
        head=["", summary.rows_are, "χ²", "df", "raw p", f"p, {found.statement.adjustment}"],
        keys=["variable", "subjects", "chi_squared", "df", "p", "adjusted_p"],
        rows=rows,
    )
    actions: list[ContentBlock] = [
        _action(found, one) for one in found.found[:MAX_PANELS] if one.test.p is not None
    ]
    return [
        Section(
            id=SectionId.SCREENING,
            title=f"Each variable in turn, {weight.test} test",
            place="main",
            blocks=[table, quiet(f"{_tried(found)} {NOTHING_CONFIRMED}")],
        ),
        Section(id=SectionId.SCREENING_ACTIONS, title="Compare by one of them", blocks=actions),
    ]


def _tried(found: Screening) -> str:
    """How many were tested, and what of it the adjustment counts."""
    tested = sum(one.p is not None for one in found.found)
    words = f"{formatting.count(tested, 'variables')} {formatting.were(tested)} tested"
    moved = [
        f"{variable.name} at {formatting.count(variable.tried, 'thresholds')}"
        for variable in found.variables
        if variable.moved
    ]
    tried = ""
    if moved:
        tried = (
            f" Split so far: {formatting.listed(moved)}. A threshold that was moved is judged by the "
            "p of the largest statistic over all thresholds, and that p is adjusted."
        )
    return f"{words}, which the adjusted p counts.{tried}"


def _row(found: Screening, one: Screened) -> list[Cell]:
    variable = found.variables[one.place]
    below = variable.how or formatting.count(len(variable.labels), "levels")
    if variable.moved:
        below += f"; its raw p holds {BEFOREHAND}"
    name = words(variable.name, below=below)
    if one.test.p is None:
        return [name, whole(one.rows), words(one.test.blank or formatting.BLANK, wordy=True)]
    return [
        name,
        whole(one.rows),
        number_cell(
            formatting.statistic(one.test.statistic),
            one.test.statistic,
            workings=WorkingsOf(figure="screened", about={"variable": variable.name})
            if variable.grouped
            else None,
        ),
        Cell(text=str(one.test.df), raw=one.test.df),
        _raw_p(variable, one),
        p_cell(one.p, strong=True),
    ]


def _raw_p(variable: Variable, one: Screened) -> Cell:
    """The p of the test; beside that of a threshold that was moved, the p of the largest over all."""
    cell = p_cell(one.test.p)
    if not variable.moved:
        return cell
    largest = formatting.BLANK if one.judged is None else formatting.p_phrase(one.judged)
    return cell.model_copy(update={"below": f"of the largest: {largest}"})


def _action(found: Screening, one: Screened) -> Action:
    name = found.variables[one.place].name
    statement = found.statement.model_copy(
        update={"each": False, "by": name, "reference": None, "crossed": None, "thresholds": ()}
    )
    return Action(
        sentence=f"{name}: {formatting.p_phrase(one.p)} adjusted",
        label="Compare",
        do="state",
        stage="compare",
        statement=statement.model_dump(mode="json"),
    )

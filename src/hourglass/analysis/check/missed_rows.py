"""Rows it misses: deviance residuals against the linear predictor
(methods.md, section 6: Residuals and checks)."""

import numpy as np

from hourglass.analysis.check.checked import Answer, Checked, Question, Told
from hourglass.analysis.check.leaving_out import without_rows
from hourglass.analysis.check.statement import CheckStatement
from hourglass.analysis.model.statement import ModelStatement
from hourglass.analysis.shared import wording
from hourglass.analysis.shared.cell import Cell, WorkingsOf, figure, words
from hourglass.analysis.shared.figure.axes import Axis
from hourglass.analysis.shared.figure.description import Track, symmetric
from hourglass.analysis.shared.figure.marks import Points, Rule
from hourglass.analysis.shared.sections import Block, Section, Table, quiet
from hourglass.analysis.shared.sentence import Slot
from hourglass.analysis.shared.verdict import verdict
from hourglass.cohort.followup import Cohort
from hourglass.core.arrays import FloatArray
from hourglass.core.poisson import chance_of_at_least

FAR, VERY_FAR = 3.0, 4.5
USUAL = 0.0027
"""The share of deviance residuals beyond ±3 where they are normal."""
MOST_NAMED = 10
TITLE = "Farthest rows"
PREDICTOR = "linear predictor, ln of the relative rate"
OPENS = WorkingsOf(figure="row-of-model")


def row_cell(row: int) -> Cell:
    """A row's number, which opens the row."""
    opens = OPENS.model_copy(update={"about": {"row": row}})
    return Cell(text=wording.grouped(row), raw=row, workings=opens)


def _asks(cohort: Cohort, asked: ModelStatement, statement: CheckStatement) -> list[str | Slot]:
    return ["which rows does it miss, by deviance residuals against the linear predictor?"]


def _told(checked: Checked) -> Told:
    far = _known(checked.people.deviance)
    copies = checked.people.copies
    beyond, expected = float(copies[far > FAR].sum()), USUAL * float(copies.sum())
    if not np.isfinite(checked.people.deviance).any():
        return Told("unknown", "no residual is defined")
    rows = wording.count(int(beyond), checked.cohort.rows_are) if beyond else "none"
    said = f"{rows} beyond ±{FAR:g}, where about {wording.rounded(expected, 1)} would be expected"
    found = verdict(chance_of_at_least(beyond, expected))
    if found == "holds" and (far > VERY_FAR).any():
        found = "in doubt"
    return Told(found, said)


def _known(deviance: FloatArray) -> FloatArray:
    return np.nan_to_num(np.abs(deviance), nan=0.0)


def _answer(checked: Checked) -> Answer:
    deviance, linear = checked.people.deviance, checked.linear
    low, high = float(linear.min()), float(linear.max())
    air = 0.03 * (high - low) or 1.0
    bottom, top = symmetric(deviance, np.array([FAR]))
    track = Track(
        id="deviance",
        title="Deviance residuals",
        subtitle="against the linear predictor",
        axis=Axis(low=bottom, high=top, form="number", signed=True),
        across=Axis(low=low - air, high=high + air, form="number", signed=True, label=PREDICTOR),
        height="room",
        grouped=False,
        marks=[
            Rule(label="as expected", at=0),
            Rule(label="three above", at=FAR, dashed=True),
            Rule(label="three below", at=-FAR, dashed=True),
            Points(
                label=checked.cohort.rows_are,
                glyph="dot",
                x=linear,
                y=deviance,
                rows=checked.row.tolist(),
                opens=OPENS,
            ),
        ],
        note="Above 0: the event came earlier than the model expected; below 0: late, or not at all. Under a "
        f"model that holds about 3 in 1,000 lie beyond ±{FAR:g}, dashed.",
    )
    return Answer([track], [_farthest(checked)])


def _farthest(checked: Checked) -> Section:
    far = _known(checked.people.deviance)
    order = np.argsort(-far, kind="stable")[:MOST_NAMED]
    data, cohort = checked.fitted.design.data, checked.cohort
    rows = []
    for k in map(int, order):
        at, own = int(checked.fitted_row[k]), float(checked.people.deviance[k])
        time = wording.time(float(data.exit[at]), cohort.decimals)
        ended = checked.event if data.event()[at] else "without it"
        rows.append(
            [
                row_cell(int(checked.row[k])),
                figure(wording.rounded(own, 2), own),
                figure(time, float(data.exit[at])),
                words(ended),
            ]
        )
    table = Table(
        label=TITLE,
        head=["row", "deviance", cohort.statement.unit, "ended"],
        keys=["row", "deviance_residual", "time", "ended"],
        rows=rows,
    )
    blocks: list[Block] = [
        table,
        quiet("A row opens its values and the arithmetic of its residual."),
    ]
    if order.size and far[order[0]] > FAR:
        row = int(checked.row[order[0]])
        said = "See what the ratios are without the row that the model misses most. It stays in the study."
        blocks.append(without_rows(checked.asked, [row], said))
    return Section(id="farthest", title=TITLE, blocks=blocks)


QUESTION = Question("rows it misses", _asks, _told, _answer)

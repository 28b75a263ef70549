"""Rows it misses: deviance residuals against the linear predictor
(methods.md, section 6: Residuals and checks)."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from hourglass.analysis.check.checked import Checked
from hourglass.analysis.check.number_options import number_options
from hourglass.analysis.check.offered_models import without_rows
from hourglass.analysis.check.question import Answer, Question, WordedVerdict, not_weighed
from hourglass.analysis.check.statement import RESIDUAL_KEYS, CheckStatement
from hourglass.analysis.check.weighed import FAR, OUTLIERS, MissedNumbers, distance
from hourglass.analysis.model.compared_ratios import axis_words
from hourglass.analysis.model.statement import ModelStatement
from hourglass.analysis.model.terms.compared import column_words
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.cell import Cell, WorkingsOf, number_cell, words
from hourglass.analysis.shared.figure.axes import Axis
from hourglass.analysis.shared.figure.description import Track, symmetric
from hourglass.analysis.shared.figure.marks import Points, Rule
from hourglass.analysis.shared.groups import numbers
from hourglass.analysis.shared.numbers import Refused
from hourglass.analysis.shared.section_ids import SectionId
from hourglass.analysis.shared.sections import ContentBlock, Section, Table, quiet
from hourglass.analysis.shared.sentence import Option, Slot
from hourglass.analysis.shared.verdict import verdict
from hourglass.cohort.followup import Cohort
from hourglass.cohort.table import NumberColumn
from hourglass.core.arrays import FloatArray
from hourglass.core.poisson import chance_of_at_least

MAX_NAMED = 10
TITLE = "Farthest rows"
PREDICTOR = "linear predictor, ln of the relative rate"
OPENS = WorkingsOf(figure="row-of-model")


def row_cell(row: int) -> Cell:
    """A row's number, which opens the row."""
    opens = OPENS.model_copy(update={"about": {"row": row}})
    return Cell(text=formatting.grouped(row), raw=row, workings=opens)


@dataclass(frozen=True, slots=True)
class Residual:
    """What is drawn of each subject: its values, its name, and how it is read."""

    of: Callable[[Checked], FloatArray]
    title: str
    note: str


RESIDUALS: dict[str, Residual] = {
    "deviance": Residual(
        lambda c: c.by_subject.deviance,
        "Deviance residuals",
        "Above 0: the event came earlier than the model expected; below 0: late, or not at all. Under a "
        f"model that holds about 3 in 1,000 lie beyond ±{FAR:g}, dashed.",
    ),
    "martingale": Residual(
        lambda c: c.by_subject.martingale,
        "Martingale residuals",
        "Observed minus expected events; 1 at most, and far below 0 where follow-up is long without "
        "the event.",
    ),
    "Cox–Snell": Residual(
        lambda c: np.asarray(c.by_subject.expected),
        "Cox–Snell residuals",
        "The hazard that each was under until the end of its follow-up.",
    ),
    "predicted survival": Residual(
        lambda c: np.exp(-np.asarray(c.by_subject.expected)),
        "Predicted survival",
        "At each one's own time: exp of minus the events expected.",
    ),
}
assert tuple(RESIDUALS) == RESIDUAL_KEYS


def _sentence_parts(
    cohort: Cohort, model_statement: ModelStatement, statement: CheckStatement
) -> list[str | Slot]:
    shown = Slot(
        id="residual",
        label=RESIDUALS[statement.residual].title.lower(),
        title="What is drawn",
        options=[
            Option(label=r.title, field="residual", value=key, chosen=key == statement.residual)
            for key, r in RESIDUALS.items()
        ],
    )
    chosen = statement.against if statement.against in numbers(cohort) else ""
    against = Slot(
        id="against",
        label=chosen or "the linear predictor",
        title="Against which number",
        options=[
            Option(label="the linear predictor", field="against", value="", chosen=not chosen),
            *number_options(cohort, model_statement, "against", chosen),
        ],
    )
    return ["which rows does it miss, by ", shown, " against ", against, "?"]


def _verdict(checked: Checked, weighed: MissedNumbers | Refused) -> WordedVerdict:
    if isinstance(weighed, Refused):
        return not_weighed(weighed)
    if not weighed.known:
        return WordedVerdict("unknown", "no residual is defined")
    beyond, expected = weighed.beyond, weighed.expected
    rows = formatting.count(int(beyond), checked.cohort.rows_are) if beyond else "none"
    text = (
        f"{rows} beyond ±{FAR:g}, where about {formatting.rounded(expected, 1)} would be expected"
    )
    found = verdict(chance_of_at_least(beyond, expected))
    if found == "holds" and weighed.any_very_far:
        found = "in doubt"
    return WordedVerdict(found, text)


def _answer(checked: Checked, weighed: MissedNumbers | Refused) -> Answer:
    residual = RESIDUALS[checked.statement.residual]
    y = residual.of(checked)
    x, across, text = _against(checked)
    deviance = checked.statement.residual == "deviance"
    lines = [Rule(label="as expected", at=0)]
    bottom, top = _domain(y)
    if deviance:
        bottom, top = symmetric(y, np.array([FAR]))
        lines += [
            Rule(label="three above", at=FAR, dashed=True),
            Rule(label="three below", at=-FAR, dashed=True),
        ]
    known = np.isfinite(x) & np.isfinite(y)
    track = Track(
        id="residuals",
        title=residual.title,
        subtitle=f"against {text}",
        axis=Axis(low=bottom, high=top, form="number", signed=deviance),
        across=across,
        height="room",
        grouped=False,
        marks=[
            *lines,
            Points(
                label=checked.cohort.rows_are,
                glyph="dot",
                x=x[known],
                y=y[known],
                rows=checked.row[known].tolist(),
                opens=OPENS,
            ),
        ],
        note=residual.note,
    )
    return Answer([track], [_farthest(checked)])


def _domain(y: FloatArray) -> tuple[float, float]:
    known = y[np.isfinite(y)]
    low, high = (
        (min(float(known.min()), 0.0), max(float(known.max()), 0.0)) if known.size else (0.0, 1.0)
    )
    air = 0.04 * (high - low) or 1.0
    return low - air, high + air


def _against(checked: Checked) -> tuple[FloatArray, Axis, str]:
    """(m,) what is along the horizontal axis, the axis, and what it is called."""
    name = checked.statement.against
    column = checked.cohort.table.column(name) if checked.cohort.table.has(name) else None
    if isinstance(column, NumberColumn):
        x, label = column.values[checked.place], column_words(checked.cohort.table, name)
        axis = axis_words(checked.cohort, name)
    else:
        x, label, axis = checked.linear, "the linear predictor", PREDICTOR
    known = x[np.isfinite(x)]
    low, high = (float(known.min()), float(known.max())) if known.size else (0.0, 1.0)
    air = 0.03 * (high - low) or 1.0
    return x, Axis(low=low - air, high=high + air, form="number", label=axis), label


def _farthest(checked: Checked) -> Section:
    far = distance(checked.by_subject.deviance)
    order = np.argsort(-far, kind="stable")[:MAX_NAMED]
    data, cohort = checked.fitted.design.data, checked.cohort
    rows = []
    for k in map(int, order):
        at, own = int(checked.fitted_row[k]), float(checked.by_subject.deviance[k])
        time = formatting.time(float(data.exit[at]), cohort.decimals)
        ended = checked.event if data.event()[at] else "without it"
        rows.append(
            [
                row_cell(int(checked.row[k])),
                number_cell(formatting.rounded(own, 2), own),
                number_cell(time, float(data.exit[at])),
                words(ended),
            ]
        )
    table = Table(
        label=TITLE,
        head=["row", "deviance", cohort.statement.unit, "ended"],
        keys=["row", "deviance_residual", "time", "ended"],
        rows=rows,
    )
    blocks: list[ContentBlock] = [
        table,
        quiet("A row opens its values and the arithmetic of its residual."),
    ]
    if order.size and far[order[0]] > FAR:
        row = int(checked.row[order[0]])
        text = "See what the ratios are without the row that the model misses most. It stays in the study."
        blocks.append(without_rows(checked.model_statement, [row], text))
    return Section(id=SectionId.FARTHEST, title=TITLE, blocks=blocks)


QUESTION = Question(OUTLIERS, "outliers", _sentence_parts, _verdict, _answer)

"""Who carries the result: how far each coefficient moves when somebody is left out
(methods.md, section 6: Residuals and checks)."""

import numpy as np

from hourglass.analysis.check.checked import Checked
from hourglass.analysis.check.missed_rows import OPENS, row_cell
from hourglass.analysis.check.offered_models import without_rows
from hourglass.analysis.check.question import Answer, Question, WordedVerdict, not_weighed
from hourglass.analysis.check.statement import CheckStatement
from hourglass.analysis.check.weighed import INFLUENCE
from hourglass.analysis.model.statement import ModelStatement
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.cell import Cell, number_cell, words
from hourglass.analysis.shared.figure.axes import Axis
from hourglass.analysis.shared.figure.description import Track, symmetric
from hourglass.analysis.shared.figure.marks import Points, Rule
from hourglass.analysis.shared.frozen_model import ratio_of
from hourglass.analysis.shared.groups import categories, group_by
from hourglass.analysis.shared.numbers import Refused
from hourglass.analysis.shared.section_ids import SectionId
from hourglass.analysis.shared.sections import ContentBlock, Section, Table, quiet
from hourglass.analysis.shared.sentence import Option, Slot
from hourglass.analysis.shared.verdict import Verdict
from hourglass.cohort.followup import Cohort
from hourglass.core.arrays import FloatArray, IntArray

HALF, WHOLE = 0.5, 1.0
"""Standard errors that somebody alone may move a coefficient."""
MAX_NAMED, MAX_TRACKS = 10, 12
TITLE = "Who moves a coefficient most"
KEYS = ["who", "standard_errors", "ratio_without"]


def _sentence_parts(
    cohort: Cohort, model_statement: ModelStatement, statement: CheckStatement
) -> list[str | Slot]:
    by = statement.together
    options = [
        Option(label="each subject alone", field="together", value="", chosen=not by),
        *(
            Option(
                label=f"all of one {name} together",
                note=f"{formatting.count(len(group_by(cohort.table, name, None).labels), 'levels')}",
                field="together",
                value=name,
                chosen=name == by,
            )
            for name in categories(cohort)
        ),
    ]
    slot = Slot(
        id="together",
        label=f"all of one {by} together" if by else "each of them alone",
        title="Who is left out",
        options=options,
    )
    return [f"who carries the result, leaving out {cohort.rows_are}, ", slot, "?"]


def _moved(checked: Checked) -> tuple[FloatArray, IntArray]:
    """(m, q) how far each subject, or each level of a category, moves the coefficients; and (m,) who."""
    own, name = checked.alone, checked.statement.together
    if not name or not checked.cohort.table.has(name):
        return own, np.arange(len(own), dtype=np.int64)
    code = group_by(checked.cohort.table, name, None).code[checked.place]
    weighted = own * checked.by_subject.copies[:, None]
    levels = np.unique(code[code >= 0])
    sums = [weighted[code == level].sum(axis=0) for level in levels]
    return np.array(sums, dtype=np.float64).reshape(levels.size, own.shape[1]), levels


def _verdict(checked: Checked, largest: float | Refused) -> WordedVerdict:
    if isinstance(largest, Refused):
        return not_weighed(largest)
    text = f"{formatting.rounded(largest, 2)} standard errors"
    if largest < HALF:
        return WordedVerdict("holds", f"nobody alone moves a coefficient by more than {text}")
    found: Verdict = "fails" if largest >= WHOLE else "in doubt"
    return WordedVerdict(found, f"one alone moves a coefficient by {text}")


def _answer(checked: Checked, largest: float | Refused) -> Answer:
    moved, who = _moved(checked)
    errors = np.asarray(moved / checked.in_errors)
    kept = np.flatnonzero(checked.at.kept)
    together = checked.statement.together
    tracks = []
    for c, column in enumerate(kept[:MAX_TRACKS]):
        name = checked.fitted.design.columns[column].named
        low, high = symmetric(errors[:, c], np.array([HALF]))
        if together:
            groups = group_by(checked.cohort.table, together, None)
            x = np.arange(who.size, dtype=np.float64)
            labels = [groups.labels[level] for level in who]
            across = Axis(
                low=-0.5, high=who.size - 0.5, form="category", categories=labels, label=together
            )
            rows: list[int] = []
        else:
            x = checked.fitted.design.data.exit[checked.fitted_row]
            rows = checked.row.tolist()
            across = Axis(
                low=0,
                high=checked.cohort.follow_up.end,
                form="time",
                label=f"own time, {checked.cohort.statement.unit}",
                unit=checked.cohort.statement.unit,
            )
        tracks.append(
            Track(
                id=f"influence-{column}",
                title=name,
                subtitle="dfbeta, standardised",
                axis=Axis(low=low, high=high, form="number", signed=True),
                across=across,
                grouped=False,
                marks=[
                    Rule(label="no change", at=0),
                    Points(
                        label="left out",
                        glyph="dot",
                        x=x,
                        y=-errors[:, c],
                        rows=rows,
                        opens=None if together else OPENS,
                    ),
                ],
            )
        )
    note = (
        "Each dot: how far the coefficient would move, to first order, if one were left out; above 0 the "
        "ratio would be larger without them."
    )
    return Answer(tracks, [_table(checked, moved, errors, who)], note)


def _table(checked: Checked, moved: FloatArray, errors: FloatArray, who: IntArray) -> Section:
    """The largest movements, each with the ratio as it is and as it would be."""
    kept = np.flatnonzero(checked.at.kept)
    flat = np.argsort(-np.abs(errors), axis=None, kind="stable")[:MAX_NAMED]
    together = checked.statement.together
    labels = group_by(checked.cohort.table, together, None).labels if together else ()
    rows: list[list[Cell]] = []
    for place in map(int, flat):
        m, c = divmod(place, errors.shape[1])
        column = int(kept[c])
        beta = float(checked.fitted.fit.beta[column])
        without = ratio_of(beta - float(moved[m, c]))
        named = checked.fitted.design.columns[column].named
        name = words(labels[who[m]]) if together else row_cell(int(checked.row[who[m]]))
        rows.append(
            [
                name.model_copy(update={"below": named}),
                number_cell(formatting.rounded(-float(errors[m, c]), 2), -float(errors[m, c])),
                number_cell(" → ".join(formatting.ratios(ratio_of(beta), without)), without),
            ]
        )
    head = [together or "row", "moves", "ratio, without"]
    table = Table(label=TITLE, head=head, keys=KEYS, rows=rows)
    blocks: list[ContentBlock] = [table, quiet("Without: to first order; the fit says it exactly.")]
    if flat.size:
        m = int(flat[0]) // errors.shape[1]
        chosen = _rows_of(checked, int(who[m]))
        if len(chosen) <= 1000:
            text = "See what the ratios are without whoever moves one most."
            named = f"{together} {labels[who[m]]}" if together else ""
            blocks.append(without_rows(checked.model_statement, chosen, text, named))
    return Section(id=SectionId.INFLUENCE, title=TITLE, blocks=blocks)


def _rows_of(checked: Checked, who: int) -> list[int]:
    """The rows of a subject, or of a level."""
    coded, together = checked.fitted.design, checked.statement.together
    if together:
        code = group_by(checked.cohort.table, together, None).code[coded.place]
        return sorted({int(n) for n in coded.numbers[code == who]})
    return sorted({int(n) for n in coded.numbers[checked.subject == who]})


QUESTION = Question(INFLUENCE, "influence", _sentence_parts, _verdict, _answer)

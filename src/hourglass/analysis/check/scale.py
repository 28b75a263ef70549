"""Scale of numbers: martingale residuals against a number, with a smooth, and a spline against a line
(methods.md, section 6: Residuals and checks)."""

import math
from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from hourglass.analysis.check.checked import Checked
from hourglass.analysis.check.missed_rows import OPENS
from hourglass.analysis.check.number_options import number_options
from hourglass.analysis.check.offered_models import trying
from hourglass.analysis.check.question import Answer, Question, WordedVerdict, not_weighed
from hourglass.analysis.check.statement import CheckStatement
from hourglass.analysis.check.weighed import FUNCTIONAL_FORM, Straight, is_straight
from hourglass.analysis.model.compared_ratios import axis_words
from hourglass.analysis.model.curve_tracks import PREFIX, curve_tracks
from hourglass.analysis.model.fitting import fit_parted
from hourglass.analysis.model.statement import ModelStatement
from hourglass.analysis.model.terms.curve import SplineTerm
from hourglass.analysis.model.terms.number import DoublingTerm
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.cell import Cell, words
from hourglass.analysis.shared.figure.axes import Axis
from hourglass.analysis.shared.figure.description import Track
from hourglass.analysis.shared.figure.marks import Line, Points, Rule
from hourglass.analysis.shared.groups import numbers
from hourglass.analysis.shared.numbers import Refused
from hourglass.analysis.shared.section_ids import SectionId
from hourglass.analysis.shared.sections import ContentBlock, Section, Table, quiet, test_row
from hourglass.analysis.shared.sentence import Slot
from hourglass.analysis.shared.verdict import doubtful, verdict, weakest
from hourglass.cohort.followup import Cohort
from hourglass.cohort.table import NumberColumn
from hourglass.core.arrays import FloatArray
from hourglass.core.errors import HourglassError
from hourglass.core.lowess import lowess
from hourglass.core.regression.residuals import at_estimate, by_subject
from hourglass.core.sample_quantiles import sample_quantiles

TITLE = "A curve against a straight line"


def chosen_variable(
    cohort: Cohort, model_statement: ModelStatement, statement: CheckStatement
) -> str:
    """The number that is looked at: as chosen, else the first of the model, else of the table."""
    there = numbers(cohort)
    if statement.variable in there:
        return statement.variable
    own = [t.column for t in model_statement.terms if t.by_number]
    return next((name for name in [*own, *there] if name in there), "")


def _sentence_parts(
    cohort: Cohort, model_statement: ModelStatement, statement: CheckStatement
) -> list[str | Slot]:
    chosen = chosen_variable(cohort, model_statement, statement)
    slot = Slot(
        id="variable",
        label=chosen or "a number",
        title="Number whose scale is looked at",
        state="filled" if chosen else "open",
        options=number_options(cohort, model_statement, "variable", chosen),
    )
    return ["is the scale of ", slot, " right, by martingale residuals against it?"]


def _verdict(checked: Checked, found: tuple[Straight, ...] | Refused) -> WordedVerdict:
    if isinstance(found, Refused):
        return not_weighed(found)
    if not found:
        return WordedVerdict("unknown", "no number enters in a straight line")
    p = weakest([one.test.p for one in found])
    if p is None:
        return WordedVerdict("unknown", "; ".join(one.test.blank or "" for one in found))
    worst = min((one for one in found if one.test.p is not None), key=lambda one: one.test.p or 1.0)
    column = checked.fitted.design.stated_terms[worst.place].column
    return WordedVerdict(verdict(p), f"{column} as a curve: {formatting.p_phrase(p)}")


def _answer(checked: Checked, found: tuple[Straight, ...] | Refused) -> Answer:
    name = chosen_variable(checked.cohort, checked.model_statement, checked.statement)
    tested = () if isinstance(found, Refused) else found
    tracks = [] if not name else [_residuals(checked, name), *_spline(checked, name)]
    return Answer(tracks, [_tests(checked, tested)])


def _residuals(checked: Checked, name: str) -> Track:
    """Martingale residuals of the model without the number, against it, with their smooth."""
    column = checked.cohort.table.column(name)
    assert isinstance(column, NumberColumn)
    martingale, text = _without(checked, name)
    values = column.values[checked.place]
    known = np.isfinite(values) & np.isfinite(martingale)
    x, y, copies = values[known], martingale[known], checked.by_subject.copies[known]
    low, high = (float(x.min()), float(x.max())) if x.size else (0.0, 1.0)
    marks: list[Line | Points | Rule] = [
        Rule(label="as expected", at=0),
        Points(
            label=checked.cohort.rows_are,
            glyph="dot",
            x=x,
            y=y,
            rows=checked.row[known].tolist(),
            opens=OPENS,
        ),
    ]
    if np.unique(x).size > 1:
        line = lowess(x, y, copies.astype(np.int64), progress=checked.progress)
        marks.append(Line(label="smooth", x=line.x, y=line.y, step=False))
    bottom = (
        float(sample_quantiles(y, copies.astype(np.int64), np.array([0.02]))[0]) if y.size else -1.0
    )
    return Track(
        id="martingale",
        title="Martingale residuals",
        subtitle=text,
        axis=Axis(low=min(bottom, -1.0), high=1.08, form="number", signed=True),
        across=Axis(
            low=low,
            high=high if high > low else low + 1,
            form="number",
            label=axis_words(checked.cohort, name),
        ),
        height="room",
        grouped=False,
        marks=list(marks),
        note="Observed minus expected events, with a LOWESS line (Cleveland 1979). A line that rises or "
        "falls evenly speaks for the number as it is; one that bends, for a curve or a logarithm.",
    )


def _without(checked: Checked, name: str) -> tuple[FloatArray, str]:
    """(m,) residuals of the model without the number, where that can be fitted; else of the model."""
    model = checked.model_statement.hazards_model
    rest = tuple(t for t in model.terms if name not in t.columns)
    if len(rest) == len(model.terms):
        return checked.by_subject.martingale, "of the model, which it is not in"
    if not rest:
        return _null(checked), "of no model: nobody differs from anybody else"
    # On the same rows as the model itself.
    needed = (*model.rows_with, *model.term_columns)
    smaller = model.model_copy(update={"terms": rest, "rows_with": needed})
    try:
        fitted = fit_parted(checked.cohort, smaller)
        coded = fitted.design
        found = by_subject(coded.data, at_estimate(coded.data, coded.x, fitted.plain))
    except HourglassError:
        return checked.by_subject.martingale, "of the model with it"
    if found.copies.size != checked.by_subject.copies.size:
        return checked.by_subject.martingale, "of the model with it"
    return found.martingale, "of the model without it"


def _null(checked: Checked) -> FloatArray:
    """(m,) residuals where every coefficient is 0."""
    coded, fitted = checked.fitted.design, checked.fitted.plain
    level = replace(fitted, beta=np.where(np.isnan(fitted.beta), np.nan, 0.0))
    return by_subject(coded.data, at_estimate(coded.data, coded.x, level)).martingale


def _spline(checked: Checked, name: str) -> list[Track]:
    """The ratio over the number as a spline, with the straight line that the model takes."""
    places = [
        k
        for k, t in enumerate(checked.model_statement.terms)
        if t.column == name and is_straight(t)
    ]
    if not places:
        return []
    place, term = places[0], checked.model_statement.terms[places[0]]
    try:
        spline = SplineTerm(column=name, knots=3)
        curved = fit_parted(
            checked.cohort, checked.model_statement.hazards_model.with_term(place, spline)
        )
        found = curve_tracks(checked.cohort, curved, checked.form.confidence)
    except HourglassError:
        return []
    track = next((t for t in found if t.id == f"{PREFIX}{name}"), None)
    if track is None or track.axis is None:
        return []
    (line,) = [m for m in track.marks if isinstance(m, Line)]
    x = np.asarray(line.x, dtype=np.float64)
    reference = next(float(m.x[0]) for m in track.marks if isinstance(m, Points))
    slope = float(checked.fitted.fit.beta[checked.fitted.design.of_term(place)[0]])
    block = checked.fitted.design.blocks[place]
    away = (term.at(x, block) - term.at(np.array([reference]), block))[:, 0]
    straight = np.exp(np.clip(slope * away, -math.log(1e6), math.log(1e6)))
    label = f"the model, {term.unit_label}"
    marks = [*track.marks, Line(label=label, x=x, y=straight, step=False, ghost=True)]
    note = f"{track.note} Faint: {label}."
    return [track.model_copy(update={"marks": marks, "note": note})]


def _tests(checked: Checked, found: Sequence[Straight]) -> Section:
    rows: list[list[Cell]] = []
    offered: list[ContentBlock] = []
    for one in found:
        own = verdict(one.test.p)
        term = checked.fitted.design.stated_terms[one.place]
        label = words(term.label, verdict=own, strong=doubtful(own))
        rows.append(test_row(label, one.test))
        offered += _remedies(checked, one)
    blocks: list[ContentBlock] = [
        Table(
            label=TITLE,
            head=["", "χ²", "df", "p"],
            keys=["term", "chi_squared", "df", "p"],
            rows=rows,
        ),
        quiet(
            "Score test of the bend of a restricted cubic spline of three knots beside the model as it is. A "
            "form that is chosen because it fits these rows best fits others less well."
        ),
        *offered,
    ]
    if not found:
        blocks = [
            quiet("No number enters the model in a straight line: there is no form to doubt.")
        ]
    return Section(id=SectionId.SCALE, title=TITLE, blocks=blocks)


def _remedies(checked: Checked, one: Straight) -> list[ContentBlock]:
    """Other forms of a number that is in doubt."""
    if not doubtful(verdict(one.test.p)):
        return []
    model, term = (
        checked.model_statement.hazards_model,
        checked.fitted.design.stated_terms[one.place],
    )
    name = term.column
    column = checked.cohort.table.column(name)
    found: list[ContentBlock] = [
        trying(
            checked.model_statement,
            model.with_term(one.place, SplineTerm(column=name, knots=4)),
            f"Let the ratio of {name} be a curve.",
            f"Try {name} as a spline",
            f"{name} as a spline, tried in Check",
        )
    ]
    if (
        isinstance(column, NumberColumn)
        and (column.values[~column.missing] > 0).all()
        and not isinstance(term, DoublingTerm)
    ):
        found.append(
            trying(
                checked.model_statement,
                model.with_term(one.place, DoublingTerm(column=name)),
                f"Take {name} on the log scale: the same ratio for each doubling.",
                f"Try {name} per doubling",
                f"{name} per doubling, tried in Check",
            )
        )
    return found


QUESTION = Question(FUNCTIONAL_FORM, "functional form", _sentence_parts, _verdict, _answer)

"""The part of Model that sets each level's ratios beside its median, on the rows of the model."""

from typing import cast

import numpy as np

from hourglass.analysis.model.design import follow_up_of
from hourglass.analysis.model.fitting import FittedModel, fit_model
from hourglass.analysis.model.readings import CoefficientReading, RatioReading, TermReading
from hourglass.analysis.model.statement import ModelStatement
from hourglass.analysis.model.term_readings import ratios_of_terms, term_readings
from hourglass.analysis.model.terms.forms import CategoryTerm
from hourglass.analysis.shared import wording
from hourglass.analysis.shared.cell import Cell, estimate, whole, words
from hourglass.analysis.shared.curve_form import CurveForm, study_form
from hourglass.analysis.shared.curves import curve_of, reading
from hourglass.analysis.shared.groups import group_by
from hourglass.analysis.shared.parts import Part
from hourglass.analysis.shared.result import PartResult
from hourglass.analysis.shared.sections import Section, Table, quiet
from hourglass.analysis.shared.stage import Statements
from hourglass.cohort.followup import Cohort
from hourglass.core.followup import FollowUp
from hourglass.core.watch import Watch

TITLE = "Medians beside hazard ratios"
KEYS = ["group", "rows", "events", "median", "alone", "adjusted"]
ABOUT = (
    "Medians are of the curve of each level, not adjusted, on the rows of the model. A ratio of rates is "
    "no ratio of medians: only where hazards stay in proportion do both say the same."
)


class MediansBeside(PartResult):
    """The median of each level of the model's categories, beside its hazard ratios."""


def categories_told(statement: ModelStatement) -> bool:
    """Whether there is a category whose levels have one ratio each."""
    return any(_told(term) for term in statement.terms)


def _told(term: object) -> bool:
    return isinstance(term, CategoryTerm) and term.changing is None


def medians_beside(cohort: Cohort, asked: Statements, watch: Watch) -> MediansBeside:
    """A line a level of each category: rows, events, median, ratio on its own and adjusted."""
    statement = cast(ModelStatement, asked["model"])
    fitted = fit_model(cohort, statement.hazards_model, watch)
    told = ratios_of_terms(cohort, fitted)
    form = study_form(asked).at_level(statement.confidence)
    terms = term_readings(cohort, fitted, told, form.confidence, watch)
    data, _ = follow_up_of(cohort, statement.cause)
    rows = [
        row
        for term, one in zip(fitted.design.asked, terms, strict=True)
        if isinstance(term, CategoryTerm) and _told(term)
        for row in _levels(cohort, fitted, data, term, one, form)
    ]
    unit = cohort.statement.unit
    head = ["", cohort.rows_are, "events", f"median, {unit} ({form.ci})", "on its own", "adjusted"]
    table = Table(label=TITLE, head=head, keys=KEYS, rows=rows)
    blocks = [table, quiet(ABOUT)]
    return MediansBeside(sections=[Section(id="medians", title=TITLE, place="main", blocks=blocks)])


def _levels(
    cohort: Cohort,
    fitted: FittedModel,
    data: FollowUp,
    term: CategoryTerm,
    told: TermReading,
    form: CurveForm,
) -> list[list[Cell]]:
    groups = group_by(cohort.table, term.column, term.reference)
    used = np.zeros(cohort.table.size, dtype=bool)
    used[fitted.design.place] = True
    ratios = {c.label: c for c in told.coefficients}
    found = []
    for k, level in enumerate(groups.labels):
        inside = used & (groups.code == k)
        if not inside.any():
            continue
        curve = reading(curve_of(data, form, level, k, inside), ())
        own = ratios.get(level)
        found.append(
            [
                words(f"{term.column}: {level}"),
                whole(curve.subjects),
                whole(curve.events),
                estimate(
                    curve.median.whole(cohort.decimals),
                    curve.median.time,
                    curve.median.lower,
                    curve.median.upper,
                    note=curve.median.note,
                ),
                *_ratios(own, reference=k == 0),
            ]
        )
    return found


def _ratios(own: CoefficientReading | None, *, reference: bool) -> list[Cell]:
    if own is None:
        said = "1 (reference)" if reference else "told within levels of others"
        return [words(said), words(said)]
    return [_ratio(own.alone), _ratio(own.adjusted)]


def _ratio(one: RatioReading) -> Cell:
    p = "" if one.p is None else wording.p_phrase(one.p)
    return one.cell(below=p)


PART = Part("medians", TITLE, MediansBeside, medians_beside)

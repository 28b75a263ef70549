"""The numbers of medians beside hazard ratios: the curve of each level, on the rows of the model."""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from hourglass.analysis.model.alone import terms_alone
from hourglass.analysis.model.design import Design, follow_up_of
from hourglass.analysis.model.fit_numbers import FitNumbers, fit_numbers
from hourglass.analysis.model.fitting import fit_model
from hourglass.analysis.model.stated import level_of, model_of
from hourglass.analysis.model.statement import MODEL_FIELDS
from hourglass.analysis.model.terms.form import TermForm
from hourglass.analysis.shared.curve_form import FORM_FIELDS, study_form
from hourglass.analysis.shared.curves import CurveNumbers, curve_numbers
from hourglass.analysis.shared.declared import Statements
from hourglass.analysis.shared.groups import group_by
from hourglass.analysis.shared.numbers import Numbers, Refused
from hourglass.cohort.followup import Cohort
from hourglass.core.arrays import BoolArray
from hourglass.core.errors import HourglassError
from hourglass.core.progress import ProgressCallback


def has_ratio_a_level(term: TermForm) -> bool:
    """Whether a term is a category whose levels have one ratio each."""
    return term.against_reference and term.changing is None


def level_rows(cohort: Cohort, coded: Design) -> Iterator[tuple[tuple[int, int], BoolArray]]:
    """The levels of the model's categories, by the places of term and level, with (n,) their rows."""
    used = np.zeros(cohort.table.size, dtype=bool)
    used[coded.place] = True
    for k, term in enumerate(coded.stated_terms):
        if has_ratio_a_level(term):
            groups = group_by(cohort.table, term.column, term.reference_level)
            for level in range(len(groups.labels)):
                inside = used & (groups.code == level)
                if inside.any():
                    yield (k, level), inside


@dataclass(frozen=True, slots=True)
class MedianNumbers:
    """The model, each of its terms alone, and the curve of every level: by its term and its place."""

    fit: FitNumbers
    alone: tuple[FitNumbers | None, ...]
    curves: dict[tuple[int, int], CurveNumbers]


def median_numbers(
    cohort: Cohort, stated: Statements, progress: ProgressCallback
) -> MedianNumbers | Refused:
    """The curve of every level of the model's categories, on its rows, beside the fit."""
    statement = model_of(stated)
    try:
        fitted = fit_model(cohort, statement.hazards_model, progress)
    except HourglassError as why:
        return Refused(str(why))
    form, level = study_form(stated).at_level(statement.confidence), level_of(stated)
    data, _ = follow_up_of(cohort, statement.cause)
    curves = {
        place: curve_numbers(data.only(rows), form)
        for place, rows in level_rows(cohort, fitted.design)
    }
    return MedianNumbers(fit_numbers(fitted, level), terms_alone(fitted, level, progress), curves)


MEDIANS = Numbers({"model": MODEL_FIELDS, "estimate": FORM_FIELDS}, median_numbers)

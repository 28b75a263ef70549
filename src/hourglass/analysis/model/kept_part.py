"""The part of Model that fits every kept model: the main ratio in each, and what it rests on."""

from typing import cast

from hourglass.analysis.model.beside import change, fitted_beside, no_criteria
from hourglass.analysis.model.fitting import FittedModel, fit_model
from hourglass.analysis.model.rail import model_words
from hourglass.analysis.model.readings import CoefficientReading
from hourglass.analysis.model.statement import KeptModel, ModelStatement
from hourglass.analysis.model.term_readings import ratios_of_terms, term_readings
from hourglass.analysis.shared import wording
from hourglass.analysis.shared.cell import Cell, figure, whole, words
from hourglass.analysis.shared.curve_form import CurveForm, study_form
from hourglass.analysis.shared.parts import Part
from hourglass.analysis.shared.result import PartResult
from hourglass.analysis.shared.sections import Section, Table, quiet
from hourglass.analysis.shared.stage import Statements
from hourglass.cohort.followup import Cohort
from hourglass.core.watch import Watch

TITLE = "Kept models"
HEAD = ["", "rows", "events", "main ratio", "change", "AIC"]


class KeptModels(PartResult):
    """Every kept model beside the one shown."""


def kept_models(cohort: Cohort, asked: Statements, watch: Watch) -> KeptModels:
    """A line a model: its rows and events, the first ratio of the model shown, and how far it moved."""
    statement, form = cast(ModelStatement, asked["model"]), study_form(asked)
    level = form.at_level(statement.confidence).confidence
    shown = fit_model(cohort, statement.hazards_model, watch)
    told = ratios_of_terms(cohort, shown)[:1]
    terms = term_readings(cohort, shown, told, level, watch, alone=False)
    main = next(((t.name, c) for t in terms for c in t.coefficients), None)
    rows = []
    for k, one in enumerate(sorted(statement.kept, key=lambda kept: kept.letter)):
        watch(f"fitting model {one.letter}", 0.3 + 0.7 * k / len(statement.kept))
        rows.append(_line(cohort, statement, one, main, shown, form, watch))
    table = Table(
        label=TITLE,
        head=HEAD,
        keys=["model", "rows", "events", "main_ratio", "change", "aic"],
        rows=rows,
    )
    name = "" if main is None else f" The main ratio is that of {_named(*main)}."
    about = quiet(
        f"AIC stands where a model is of the same rows, ties and strata as the one shown.{name}"
    )
    return KeptModels(
        sections=[Section(id="kept", title=TITLE, place="main", blocks=[table, about])]
    )


def _named(term: str, c: CoefficientReading) -> str:
    return f"{term} {c.label} {c.told}" if c.label != term else f"{term} {c.told}"


def _line(
    cohort: Cohort,
    statement: ModelStatement,
    one: KeptModel,
    main: tuple[str, CoefficientReading] | None,
    shown: FittedModel,
    form: CurveForm,
    watch: Watch,
) -> list[Cell]:
    name = words(
        f"{one.letter}: {model_words(one.model)}",
        below=" · ".join([*one.marks, *([one.note] if one.note else [])]),
        strong=statement.current is one,
    )
    other = fitted_beside(cohort, one, form, watch)
    if other.fitted is None:
        return [name, words(other.read.blank, wordy=True)]
    ratio = None if main is None else other.ratio_of(*main)
    found = other.fitted.fit
    why = no_criteria(shown, other.fitted)
    criterion = (
        figure(wording.BLANK, None, below=why)
        if why
        else figure(wording.statistic(found.aic), found.aic)
    )
    own_ratio = None if ratio is None else ratio.adjusted.ratio
    first = None if main is None else main[1].adjusted.ratio
    return [
        name,
        whole(other.fitted.design.size),
        whole(found.events),
        figure(wording.BLANK, None) if ratio is None else ratio.adjusted.cell(),
        words(change(own_ratio, first)),
        criterion,
    ]


PART = Part("kept", TITLE, KeptModels, kept_models)

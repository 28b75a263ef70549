"""The part of Model that fits every kept model: the main ratio in each, and what it rests on."""

from hourglass.analysis.model.beside import Beside, change, no_criteria
from hourglass.analysis.model.fitting import FittedModel
from hourglass.analysis.model.many_models import KEPT, KeptNumbers
from hourglass.analysis.model.rail import model_words
from hourglass.analysis.model.readings import CoefficientReading
from hourglass.analysis.model.statement import ModelStatement
from hourglass.analysis.model.term_readings import read_model
from hourglass.analysis.shared import wording
from hourglass.analysis.shared.cell import Cell, figure, whole, words
from hourglass.analysis.shared.curve_form import study_form
from hourglass.analysis.shared.declared import Statements, statement_of
from hourglass.analysis.shared.parts import Part
from hourglass.analysis.shared.result import PartResult
from hourglass.analysis.shared.section_ids import SectionId
from hourglass.analysis.shared.sections import Section, Table, quiet
from hourglass.cohort.followup import Cohort

TITLE = "Kept models"
HEAD = ["", "rows", "events", "main ratio", "change", "AIC"]


class KeptModels(PartResult):
    """Every kept model beside the one shown."""


def kept_models(numbers: KeptNumbers, cohort: Cohort, statements: Statements) -> KeptModels:
    """A line a model: its rows and events, the first ratio of the model shown, and how far it moved."""
    statement, form = statement_of(statements, ModelStatement), study_form(statements)
    shown = read_model(cohort, statement.hazards_model, form, numbers.shown)
    if shown.fitted is None:
        blank = quiet(f"There is no model yet: {shown.blank}.")
        return KeptModels(
            sections=[Section(id=SectionId.KEPT, title=TITLE, place="main", blocks=[blank])]
        )
    main = next(((t.name, c) for t in shown.terms[:1] for c in t.coefficients), None)
    rows = []
    for one in sorted(statement.kept, key=lambda kept: kept.letter):
        other = Beside(one, read_model(cohort, one.model, form, numbers.kept[one.letter]))
        rows.append(_line(other, main, shown.fitted, current=statement.current is one))
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
        sections=[Section(id=SectionId.KEPT, title=TITLE, place="main", blocks=[table, about])]
    )


def _named(term: str, c: CoefficientReading) -> str:
    return f"{term} {c.label} {c.told}" if c.label != term else f"{term} {c.told}"


def _line(
    other: Beside, main: tuple[str, CoefficientReading] | None, shown: FittedModel, *, current: bool
) -> list[Cell]:
    one = other.kept
    name = words(
        f"{one.letter}: {model_words(one.model)}",
        below=" · ".join([*one.marks, *([one.note] if one.note else [])]),
        strong=current,
    )
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


PART = Part(key="kept", title=TITLE, result=KeptModels, numbers=KEPT, show=kept_models)

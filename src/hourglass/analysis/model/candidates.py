"""The parts of Model that fit many models: candidates each alone and all together, and each cause."""

import re
from collections.abc import Sequence

from hourglass.analysis.model import many_models
from hourglass.analysis.model.fit_numbers import FitNumbers
from hourglass.analysis.model.many_models import CandidateNumbers
from hourglass.analysis.model.new_term import candidate_terms
from hourglass.analysis.model.readouts import RatioReadout
from hourglass.analysis.model.statement import ModelStatement
from hourglass.analysis.model.term_readouts import read_model
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.causes import cause_names
from hourglass.analysis.shared.cell import Cell, number_cell, p_cell, whole, words
from hourglass.analysis.shared.curve_form import study_form
from hourglass.analysis.shared.declared import Statements, statement_of
from hourglass.analysis.shared.numbers import Refused
from hourglass.analysis.shared.parts import DeferredSection
from hourglass.analysis.shared.result import PartResult
from hourglass.analysis.shared.section_ids import SectionId
from hourglass.analysis.shared.sections import Section, Table, quiet
from hourglass.cohort.followup import Cohort

CANDIDATES, CAUSES = "Candidates, each alone and all together", "Each cause as the event"
NOT_CHOSEN = (
    "No candidate is chosen for you: a model made of those with the smallest p fits these rows too well, and "
    "its p and intervals are too good. State before you see this which ones matter, and why."
)


class CandidateModels(PartResult):
    """Every candidate by itself, and in the model of them all."""


class CauseModels(PartResult):
    """The same terms with each cause as the event in turn."""


def candidates(
    numbers: CandidateNumbers, cohort: Cohort, statements: Statements
) -> CandidateModels:
    """A line a ratio: alone on the rows that have the column, and together on those that have all."""
    statement, form = statement_of(statements, ModelStatement), study_form(statements)
    model, terms = statement.hazards_model, candidate_terms(cohort, statement.candidates)
    together = read_model(cohort, model.model_copy(update={"terms": terms}), form, numbers.together)
    rows: list[list[Cell]] = []
    for k, (term, known) in enumerate(zip(terms, numbers.alone, strict=True)):
        alone = read_model(cohort, model.model_copy(update={"terms": (term,)}), form, known)
        if alone.fitted is None:
            rows.append([words(term.label), words(alone.blank, wordy=True)])
            continue
        (shown,) = alone.terms
        for place, c in enumerate(shown.coefficients):
            both = together.terms[k].coefficients[place].adjusted if together.terms else None
            rows.append(
                [
                    words(
                        f"{term.column} {c.label}" if shown.headed else term.column,
                        below=c.comparison,
                    ),
                    whole(alone.fitted.design.size),
                    *_ratio_cells(c.adjusted),
                    *_ratio_cells(both),
                ]
            )
    table = Table(
        label=CANDIDATES,
        head=["", "rows", "alone (interval)", "p", "together (interval)", "p"],
        keys=["term", "rows", "alone", "alone_p", "together", "together_p"],
        rows=rows,
    )
    fitted = together.fitted
    text = f"Together: {together.blank}."
    if fitted is not None:
        text = f"{formatting.count(fitted.design.size, 'rows')} together."
    about = [quiet(text), quiet(NOT_CHOSEN)]
    section = Section(
        id=SectionId.CANDIDATES, title=CANDIDATES, place="main", blocks=[table, *about]
    )
    return CandidateModels(sections=[section])


def _ratio_cells(reading: RatioReadout | None) -> list[Cell]:
    """A ratio with its interval, and its p; blank where there is none."""
    if reading is None:
        return [number_cell(formatting.BLANK, None), number_cell(formatting.BLANK, None)]
    return [reading.cell(), p_cell(reading.p)]


def causes(
    numbers: Sequence[FitNumbers | Refused], cohort: Cohort, statements: Statements
) -> CauseModels:
    """A line a ratio, a column a cause; the same rows, codings and knots."""
    model, form = statement_of(statements, ModelStatement).hazards_model, study_form(statements)
    names = cause_names(cohort)
    found = [
        read_model(cohort, model.model_copy(update={"cause": code}), form, known)
        for code, known in zip(("", *cohort.competing), numbers, strict=True)
    ]
    lines: dict[tuple[str, str, str], dict[int, Cell]] = {}
    for k, one in enumerate(found):
        for term in one.terms:
            for c in term.coefficients:
                name = f"{term.name} {c.label}" if term.headed else term.name
                cell = c.adjusted.cell()
                lines.setdefault((name, c.comparison, term.label), {})[k] = cell
    rows: list[list[Cell]] = [
        [words(name, below=shown), *(of.get(k, words(formatting.BLANK)) for k in range(len(names)))]
        for (name, shown, _), of in lines.items()
    ]
    events = [
        one.blank if one.fitted is None else formatting.count(one.fitted.plain.events, "events")
        for one in found
    ]
    table = Table(
        label=CAUSES,
        head=["", *(f"{name} ({shown})" for name, shown in zip(names, events, strict=True))],
        keys=["term", *(f"ratio_{_key(name)}" for name in names)],
        rows=rows,
    )
    about = quiet(
        "Each cause's own rate, the other events as censorings at their time. A term may slow one cause and "
        "hasten another; the cumulative incidence of all causes together shows what becomes of subjects."
    )
    section = Section(id=SectionId.CAUSES, title=CAUSES, place="main", blocks=[table, about])
    return CauseModels(sections=[section])


def _key(name: str) -> str:
    """A name as a part of the key of a column."""
    return "_".join(re.findall(r"\w+", name.casefold()))


PARTS = (
    DeferredSection(
        key="candidates",
        title=CANDIDATES,
        result=CandidateModels,
        numbers=many_models.CANDIDATES,
        show=candidates,
    ),
    DeferredSection(
        key="causes", title=CAUSES, result=CauseModels, numbers=many_models.CAUSES, show=causes
    ),
)

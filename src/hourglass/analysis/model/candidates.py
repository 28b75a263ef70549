"""The parts of Model that fit many models: candidates each alone and all together, and each cause."""

from typing import cast

from hourglass.analysis.model.fitting import FittedModel, fit_model
from hourglass.analysis.model.readings import RatioReading, TermReading
from hourglass.analysis.model.statement import HazardsModel, ModelStatement
from hourglass.analysis.model.term_readings import ratios_of_terms, term_readings
from hourglass.analysis.model.term_slots import new_term
from hourglass.analysis.model.terms.forms import Term
from hourglass.analysis.shared import wording
from hourglass.analysis.shared.causes import cause_names
from hourglass.analysis.shared.cell import Cell, figure, whole, words
from hourglass.analysis.shared.parts import Part
from hourglass.analysis.shared.result import PartResult
from hourglass.analysis.shared.sections import Section, Table, quiet
from hourglass.analysis.shared.stage import Statements
from hourglass.cohort.followup import Cohort
from hourglass.cohort.table import NoSuchColumnError
from hourglass.core.watch import Watch

CANDIDATES, CAUSES = "Candidates, each alone and all together", "Each cause as the event"
NOT_CHOSEN = (
    "No candidate is chosen for you: a model made of those with the smallest p fits these rows too well, and "
    "its p and intervals are too good. Say before you see this which ones matter, and why."
)


class CandidateModels(PartResult):
    """Every candidate by itself, and in the model of them all."""


class CauseModels(PartResult):
    """The same terms with each cause as the event in turn."""


Told = tuple[FittedModel | None, list[TermReading], str]


def _told(cohort: Cohort, model: HazardsModel, watch: Watch) -> Told:
    try:
        fitted = fit_model(cohort, model, watch)
        told = ratios_of_terms(cohort, fitted)
    except (ValueError, NoSuchColumnError) as why:
        return None, [], str(why)
    return fitted, term_readings(cohort, fitted, told, model.confidence, watch, alone=False), ""


def candidates(cohort: Cohort, asked: Statements, watch: Watch) -> CandidateModels:
    """A line a ratio: alone on the rows that have the column, and together on those that have all."""
    statement = cast(ModelStatement, asked["model"])
    model = statement.hazards_model
    terms = [t for name in statement.candidates for t in [_term(cohort, name)] if t is not None]
    fitted, together, why = _told(cohort, model.model_copy(update={"terms": tuple(terms)}), watch)
    rows: list[list[Cell]] = []
    for k, term in enumerate(terms):
        watch(f"{term.column} alone", 0.2 + 0.8 * k / len(terms))
        own, alone, blank = _told(cohort, model.model_copy(update={"terms": (term,)}), watch)
        if own is None or not alone:
            rows.append([words(term.label), words(blank, wordy=True)])
            continue
        for place, c in enumerate(alone[0].coefficients):
            both = together[k].coefficients[place].adjusted if together else None
            rows.append(
                [
                    words(
                        f"{term.column} {c.label}" if alone[0].headed else term.column, below=c.told
                    ),
                    whole(own.design.size),
                    *_ratio_cells(c.adjusted),
                    figure(
                        wording.BLANK if both is None else both.worded,
                        None if both is None else both.ratio,
                    ),
                    figure(
                        wording.p_value(None if both is None else both.p),
                        None if both is None else both.p,
                    ),
                ]
            )
    table = Table(
        label=CANDIDATES,
        head=["", "rows", "alone (interval)", "p", "together (interval)", "p"],
        keys=["term", "rows", "alone", "alone_p", "together", "together_p"],
        rows=rows,
    )
    rest = (
        f"together: {why}"
        if fitted is None
        else f"{wording.count(fitted.design.size, 'rows')} together"
    )
    about = [quiet(f"{rest[0].upper()}{rest[1:]}."), quiet(NOT_CHOSEN)]
    section = Section(id="candidates", title=CANDIDATES, place="main", blocks=[table, *about])
    return CandidateModels(sections=[section])


def _ratio_cells(reading: RatioReading | None) -> list[Cell]:
    """A ratio with its interval, and its p; blank where there is none."""
    if reading is None:
        return [words(wording.BLANK), words(wording.BLANK)]
    return [figure(reading.worded, reading.ratio), figure(wording.p_value(reading.p), reading.p)]


def _term(cohort: Cohort, name: str) -> Term | None:
    return new_term(cohort, cohort.table.column(name)) if cohort.table.has(name) else None


def causes(cohort: Cohort, asked: Statements, watch: Watch) -> CauseModels:
    """A line a ratio, a column a cause; the same rows, codings and knots."""
    model = cast(ModelStatement, asked["model"]).hazards_model
    names = cause_names(cohort)
    found = []
    for k, code in enumerate(("", *cohort.competing)):
        watch(f"fitting {names[k]}", k / len(names))
        found.append(_told(cohort, model.model_copy(update={"cause": code}), watch))
    lines: dict[tuple[str, str, str], dict[int, Cell]] = {}
    for k, (_, terms, _) in enumerate(found):
        for term in terms:
            for c in term.coefficients:
                name = f"{term.name} {c.label}" if term.headed else term.name
                cell = figure(c.adjusted.worded, c.adjusted.ratio)
                lines.setdefault((name, c.told, term.label), {})[k] = cell
    rows: list[list[Cell]] = [
        [words(name, below=told), *(of.get(k, words(wording.BLANK)) for k in range(len(names)))]
        for (name, told, _), of in lines.items()
    ]
    events = [
        words(why) if fitted is None else whole(fitted.plain.events) for fitted, _, why in found
    ]
    rows.append([words("Events"), *events])
    table = Table(
        label=CAUSES,
        head=["", *names],
        keys=["term", *(f"cause_{k + 1}" for k in range(len(names)))],
        rows=rows,
    )
    about = quiet(
        "Each cause's own rate, the other events as censorings at their time. A term may slow one cause and "
        "hasten another; what becomes of people is told by the cumulative incidence of all causes together."
    )
    section = Section(id="causes", title=CAUSES, place="main", blocks=[table, about])
    return CauseModels(sections=[section])


PARTS = (
    Part("candidates", CANDIDATES, CandidateModels, candidates),
    Part("causes", CAUSES, CauseModels, causes),
)

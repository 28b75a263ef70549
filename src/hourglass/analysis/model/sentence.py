"""The model as a sentence: a slot for each term, and "Add term" for the columns not yet in it."""

import math

import numpy as np
from pydantic import JsonValue

from hourglass.analysis.model.design import unit_label
from hourglass.analysis.model.statement import (
    CategoryTerm,
    DoublingTerm,
    ModelStatement,
    NumberTerm,
    Term,
)
from hourglass.analysis.shared import wording
from hourglass.analysis.shared.groups import (
    MOST_GROUPS,
    categories,
    group_by,
    is_category,
    level_counts,
    levels_of,
)
from hourglass.analysis.shared.sentence import Entry, Option, Sentence, Slot, sentence
from hourglass.analysis.shared.slots import confidence_slot
from hourglass.cohort.followup import Cohort
from hourglass.cohort.table import Column, NumberColumn
from hourglass.core.arrays import IntArray


def model_sentence(cohort: Cohort, statement: ModelStatement) -> Sentence:
    """The rate of the event by the statement's terms."""
    parts: list[str | Slot] = [f"Rate of {cohort.statement.event_name} by "]
    for k in range(len(statement.terms)):
        last = k == len(statement.terms) - 1
        parts += ["" if k == 0 else " and " if last else ", ", _term_slot(cohort, statement, k)]
    parts += [" ", _add_slot(cohort, statement), ", ties by Efron, with "]
    return sentence(*parts, confidence_slot(statement.confidence), " intervals.")


def first_model(cohort: Cohort) -> ModelStatement:
    """By the first category there is, alone."""
    named = categories(cohort)
    term = new_term(cohort, cohort.table.column(named[0])) if named else None
    return ModelStatement(terms=() if term is None else (term,))


def new_term(cohort: Cohort, column: Column) -> Term | None:
    """The sensible first coding of a column; None if it cannot be a term."""
    if is_category(column):
        enough = 2 <= len(levels_of(column)) <= MOST_GROUPS
        return CategoryTerm(column=column.name) if enough else None
    if isinstance(column, NumberColumn) and np.unique(column.values[~column.missing]).size > 1:
        return NumberTerm(column=column.name, unit=_round_unit(column, cohort.follow_up.count))
    return None


def _round_unit(column: NumberColumn, count: IntArray) -> float:
    """A power of ten near the standard deviation, 1 for small whole numbers."""
    known = np.repeat(column.values, count)
    known = known[~np.isnan(known)]
    size = float(np.abs(known).max(initial=0.0)) or 1.0
    spread = size * float(np.std(known / size)) if known.size else 0.0
    return 10.0 ** math.floor(math.log10(spread)) if spread > 0 else 1.0


def _dumped(statement: ModelStatement, terms: list[Term]) -> JsonValue:
    changed: JsonValue = ModelStatement(
        terms=tuple(terms), confidence=statement.confidence
    ).model_dump(mode="json")["terms"]
    return changed


def _term_slot(cohort: Cohort, statement: ModelStatement, k: int) -> Slot:
    table = cohort.table
    term = statement.terms[k]
    if not table.has(term.column):
        options, entry, label = [], None, term.column
    elif isinstance(term, CategoryTerm):
        options, entry, label = _references(cohort, term, k), None, term.column
    else:
        options, entry = _units(cohort, term, k)
        label = f"{term.column} {unit_label(term)}"
    rest = [t for n, t in enumerate(statement.terms) if n != k]
    remove = Option(
        label=f"Take {term.column} out",
        note="the model is fitted without it",
        field="terms",
        value=_dumped(statement, rest),
    )
    if table.has(term.column):
        options = [*options, *_other_codings(cohort, term, k)]
    title = f"{term.column}: " + (
        "reference level" if isinstance(term, CategoryTerm) else "ratio told per"
    )
    return Slot(id=f"term-{k}", label=label, title=title, options=[*options, remove], entry=entry)


def _other_codings(cohort: Cohort, term: Term, k: int) -> list[Option]:
    """For a number of few values: as a number where it is a category, and the other way round."""
    column = cohort.table.column(term.column)
    if not isinstance(column, NumberColumn) or not levels_of(column):
        return []
    if isinstance(term, CategoryTerm):
        other: Term = NumberTerm(column=term.column)
        label, note = "as a number", "one ratio for every 1 more"
    else:
        other = CategoryTerm(column=term.column)
        label, note = "as a category", wording.listed(list(levels_of(column)))
    value = other.model_dump(mode="json")
    return [Option(label=f"Take {term.column} {label}", note=note, field=f"terms.{k}", value=value)]


def _references(cohort: Cohort, term: CategoryTerm, k: int) -> list[Option]:
    reference = group_by(cohort.table, term.column, term.reference).labels[:1]
    return [
        Option(
            label=level,
            note=f"{wording.grouped(n)} rows; the other levels are compared with it",
            field=f"terms.{k}.reference",
            value=level,
            chosen=level in reference,
        )
        for level, n in level_counts(cohort, term.column).items()
    ]


def _units(cohort: Cohort, term: Term, k: int) -> tuple[list[Option], Entry]:
    column = cohort.table.column(term.column)
    unit = term.unit if isinstance(term, NumberTerm) else None
    base = _round_unit(column, cohort.follow_up.count) if isinstance(column, NumberColumn) else 1.0
    options = [
        Option(
            label=f"per {wording.plain(value)}",
            field=f"terms.{k}",
            value=NumberTerm(column=term.column, unit=value).model_dump(mode="json"),
            chosen=value == unit,
        )
        for value in sorted({1.0, base, 5 * base, 10 * base})
    ]
    if isinstance(column, NumberColumn) and (column.values[~column.missing] > 0).all():
        options.append(
            Option(
                label="per doubling",
                note="the number enters on the log scale",
                field=f"terms.{k}",
                value=DoublingTerm(column=term.column).model_dump(mode="json"),
                chosen=isinstance(term, DoublingTerm),
            )
        )
    written = "" if unit is None else wording.plain(unit)
    entry = (
        Entry(kind="number", field=f"terms.{k}.unit", label="Another unit", value=written)
        if unit is not None
        else None
    )
    return options, entry  # type: ignore[return-value]


def _add_slot(cohort: Cohort, statement: ModelStatement) -> Slot:
    used = {t.column for t in statement.terms}
    options = []
    for column in cohort.table.columns:
        term = new_term(cohort, column)
        if term is None or column.name in used or column.name in cohort.statement.spent:
            continue
        options.append(
            Option(
                label=column.name,
                note=_note(cohort, column, term),
                field="terms",
                value=_dumped(statement, [*statement.terms, term]),
            )
        )
    state = "add" if statement.terms else "open"
    return Slot(id="add-term", label="Add term", title="Add a term", state=state, options=options)


def _note(cohort: Cohort, column: Column, term: Term) -> str:
    missing = int(column.missing.sum())
    lost = f"; {wording.grouped(missing)} missing rows would be left out" if missing else ""
    if isinstance(term, CategoryTerm):
        groups = group_by(cohort.table, column.name, term.reference)
        return f"{wording.listed(list(levels_of(column)))}, against {groups.labels[0]}{lost}"
    return f"a number, {unit_label(term)}{lost}"

"""The model as a sentence: a slot for each term, and what may be added to it."""

from collections.abc import Mapping, Sequence

from hourglass.analysis.model.beyond_slots import beyond_slots
from hourglass.analysis.model.model_slots import (
    event_slot,
    intervals_slot,
    penalty_slot,
    robust_slot,
    strata_slot,
    ties_slot,
)
from hourglass.analysis.model.new_term import new_term
from hourglass.analysis.model.statement import MAX_TERMS, ModelStatement
from hourglass.analysis.model.term_slots import TermSlots
from hourglass.analysis.model.terms.forms import Term
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.curve_form import CurveForm
from hourglass.analysis.shared.groups import categories
from hourglass.analysis.shared.round_times import middle_event_time
from hourglass.analysis.shared.sentence import Option, Sentence, Slot, SmallShape, sentence
from hourglass.analysis.shared.slots import level_slot, taken_out
from hourglass.cohort.followup import Cohort
from hourglass.cohort.table import Column

NO_SHAPES: Mapping[str, SmallShape] = {}


def model_sentence(
    cohort: Cohort,
    statement: ModelStatement,
    form: CurveForm,
    shapes: Mapping[str, SmallShape] = NO_SHAPES,
) -> Sentence:
    """The rate of the event by the statement's terms.

    Args:
        form: that of the study's curves.
        shapes: small pictures of curved terms, by column, where they are known.
    """
    middle = middle_event_time(cohort)
    parts: list[str | Slot] = ["Rate of ", event_slot(cohort, statement), " by "]
    for k in range(len(statement.terms)):
        last = k == len(statement.terms) - 1
        parts += ["" if k == 0 else " and " if last else ", "]
        parts += TermSlots(cohort, statement, k, shapes, middle).slots()
    if len(statement.terms) < MAX_TERMS:
        parts += [" ", _add_slot(cohort, statement)]
    strata, robust = strata_slot(cohort, statement), robust_slot(cohort, statement)
    penalty = penalty_slot(statement)
    optional = [slot for slot in (strata, robust, penalty) if slot.state == "add"]
    if statement.strata:
        parts += [", with an own baseline for each level of ", strata]
    parts += [", ties by ", ties_slot(statement)]
    if statement.penalised:
        parts += [", ", penalty]
    parts += [
        ", with ",
        level_slot(statement.confidence, form.confidence),
        " ",
        intervals_slot(statement),
        " intervals",
    ]
    if statement.robust is not None:
        parts += [", errors robust by ", robust]
    if statement.left_out:
        parts += [", without ", _rows_slot(statement)]
    if statement.rows_with:
        parts += [", on the rows that have ", _rows_with_slot(statement)]
    parts += ["."]
    beyond, more = beyond_slots(cohort, statement)
    parts += beyond
    for slot in [*optional, *more]:
        parts += [" ", slot]
    return sentence(*parts)


def first_model(cohort: Cohort) -> ModelStatement:
    """By the first category there is, alone."""
    named = categories(cohort)
    term = new_term(cohort, cohort.table.column(named[0])) if named else None
    return ModelStatement(terms=() if term is None else (term,))


def terms_in_words(terms: Sequence[Term]) -> str:
    """Terms as a list."""
    return formatting.listed([term.label for term in terms]) or "no term"


def _rows_slot(statement: ModelStatement) -> Slot:
    rows = statement.left_out
    listed = formatting.listed([formatting.grouped(n) for n in rows[:5]])
    more = f" and {len(rows) - 5} more" if len(rows) > 5 else ""
    word = "row" if len(rows) == 1 else "rows"
    return Slot(
        id="left-out",
        label=f"{word} {listed}{more}",
        title="Rows left out of the model",
        options=[
            Option(label="Take all rows again", field="left_out", value=[]),
            *(
                Option(
                    label=f"Take row {formatting.grouped(n)} again",
                    field="left_out",
                    value=[one for one in rows if one != n],
                )
                for n in rows[:50]
            ),
        ],
    )


def _rows_with_slot(statement: ModelStatement) -> Slot:
    names = statement.rows_with
    return Slot(
        id="rows-with",
        label=formatting.listed(list(names)),
        title="Columns that rows must have a value of",
        options=[
            Option(label="Those of the terms alone", field="rows_with", value=[]),
            *taken_out("rows_with", names),
        ],
    )


def _add_slot(cohort: Cohort, statement: ModelStatement) -> Slot:
    used = {t.column for t in statement.terms} | set(statement.strata)
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
                value=term.model_dump(mode="json"),
                adds=True,
            )
        )
    state = "add" if statement.terms else "open"
    return Slot(id="add-term", label="Add term", title="Add a term", state=state, options=options)


def _note(cohort: Cohort, column: Column, term: Term) -> str:
    missing = int(column.missing.sum())
    lost = f"; {formatting.grouped(missing)} missing rows would be left out" if missing else ""
    return f"{term.offer_note(cohort.table)}{lost}"

"""The coding that a column has in a model until somebody chooses another."""

from collections.abc import Sequence

from hourglass.analysis.model.number_facts import number_facts
from hourglass.analysis.model.terms.category import CategoryTerm
from hourglass.analysis.model.terms.forms import Term
from hourglass.analysis.model.terms.number import NumberTerm
from hourglass.analysis.shared.groups import MAX_GROUPS, is_category, levels_of
from hourglass.cohort.followup import Cohort
from hourglass.cohort.table import Column, NumberColumn


def new_term(cohort: Cohort, column: Column) -> Term | None:
    """The sensible first coding of a column; None if it cannot be a term."""
    if is_category(column):
        enough = 2 <= len(levels_of(column)) <= MAX_GROUPS
        return CategoryTerm(column=column.name) if enough else None
    if isinstance(column, NumberColumn):
        facts = number_facts(cohort, column)
        return NumberTerm(column=column.name, unit=facts.unit) if facts.distinct > 1 else None
    return None


def candidate_terms(cohort: Cohort, names: Sequence[str]) -> tuple[Term, ...]:
    """The terms of columns, those left out that are gone or cannot be one."""
    there = [cohort.table.column(name) for name in names if cohort.table.has(name)]
    return tuple(term for column in there if (term := new_term(cohort, column)) is not None)

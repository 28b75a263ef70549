"""One reference level of a column for all stages: the one set in Prepare, else the first in order.

A stage's statement may ask for another; what it asks for becomes a step in Prepare.
"""

from collections.abc import Sequence

from hourglass.analysis.groups import group_by, level_value, levels_of
from hourglass.analysis.statements import CategoryTerm, CompareStatement, ModelStatement, Statement
from hourglass.cohort.steps.levels import OrderLevels
from hourglass.cohort.steps.plan import PlacedStep
from hourglass.cohort.table import Table


def asked_references(statement: Statement, table: Table) -> dict[str, str]:
    """Columns whose reference level the statement asks to be another, with that level."""
    asked: dict[str, str] = {}
    if isinstance(statement, CompareStatement) and statement.by and statement.reference:
        asked[statement.by] = statement.reference
    if isinstance(statement, ModelStatement):
        for term in statement.terms:
            if isinstance(term, CategoryTerm) and term.reference:
                asked[term.column] = term.reference
    return {
        column: level
        for column, level in asked.items()
        if table.has(column)
        and level in levels_of(table.column(column))
        and group_by(table, column, None).labels[0] != level
    }


def without_references(statement: Statement) -> Statement:
    """The statement, its reference levels left to the columns."""
    if isinstance(statement, CompareStatement):
        return statement.model_copy(update={"reference": None})
    if isinstance(statement, ModelStatement):
        terms = tuple(
            t.model_copy(update={"reference": ""}) if isinstance(t, CategoryTerm) else t
            for t in statement.terms
        )
        return statement.model_copy(update={"terms": terms})
    return statement


def reference_step(
    table: Table, steps: Sequence[PlacedStep], column: str, level: str
) -> tuple[OrderLevels, int | None]:
    """The step that makes a level the reference, and the step it takes the place of, if any."""
    value = level_value(table.column(column), level)
    for placed in reversed(steps):
        step = placed.step
        if placed.active and isinstance(step, OrderLevels) and step.column == column:
            return step.model_copy(update={"reference": value}), placed.id
    return OrderLevels(column=column, reference=value), None

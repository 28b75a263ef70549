"""One reference level of a column for all stages: the one set in Prepare, else the first in order.

A stage's statement may ask for another; what it requests becomes a step in Prepare.
"""

from collections.abc import Sequence

from hourglass.analysis.shared.groups import group_by, level_value, levels_of
from hourglass.analysis.shared.statement import StageStatement
from hourglass.cohort.steps.document import PlacedStep
from hourglass.cohort.steps.levels import OrderLevels
from hourglass.cohort.table import Table


def stated_references(statement: StageStatement, table: Table) -> dict[str, str]:
    """Columns whose reference level the statement requests to be another, with that level."""
    return {
        column: level
        for column, level in statement.references().items()
        if table.has(column)
        and level in levels_of(table.column(column))
        and group_by(table, column, None).labels[0] != level
    }


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

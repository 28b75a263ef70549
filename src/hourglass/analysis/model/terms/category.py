"""A category: each level compared with a reference, or in order with a score a level."""

from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from hourglass.analysis.model.terms.form import Block, ColumnName, Rows, TermForm, UnusableTermError
from hourglass.analysis.shared import naming
from hourglass.analysis.shared.groups import MOST_LEVELS, Groups, group_by, levels_of
from hourglass.cohort.table import NumberColumn, Table
from hourglass.cohort.words import grouped
from hourglass.core.regression.terms import trend_column


class CategoryTerm(TermForm):
    """A category, each level compared with the reference: the column's own where none is asked for."""

    kind: Literal["category"] = "category"
    reference: str = ""

    def coded(self, rows: Rows) -> Block:
        groups = _levels(rows.table, self.column, self.reference)
        others = np.arange(1, len(groups.labels))
        block = (groups.code[:, None] == others).astype(np.float64)
        block[groups.code < 0] = np.nan
        numbers = isinstance(rows.table.column(self.column), NumberColumn)
        against = groups.labels[0]
        names = tuple(
            ColumnName(
                label, against, f"against {against}", label if numbers else f"{self.column} {label}"
            )
            for label in groups.labels[1:]
        )
        return Block(block, names)


class TrendTerm(TermForm):
    """A category in the order of its levels: one ratio per step, or per unit of stated scores."""

    kind: Literal["trend"] = "trend"
    scores: Annotated[
        tuple[Annotated[float, Field(allow_inf_nan=False)], ...], Field(max_length=MOST_LEVELS)
    ] = ()

    @property
    def unit_label(self) -> str:
        return "per unit of score" if self.scores else "per level"

    def coded(self, rows: Rows) -> Block:
        groups = _levels(rows.table, self.column, None)
        # In the column's own order, wherever its reference stands.
        order = list(levels_of(rows.table.column(self.column)))
        if self.scores and len(self.scores) != len(order):
            raise UnusableTermError(
                f"{self.column} has {naming.counted(len(order), 'level', 'levels')} "
                f"({naming.listed(order)}), but {naming.counted(len(self.scores), 'score', 'scores')}"
            )
        own = self.scores or tuple(float(k) for k in range(len(order)))
        scores = np.array([own[order.index(label)] for label in groups.labels])
        x = trend_column(groups.code, scores)
        x[groups.code < 0] = np.nan
        name = ColumnName(self.column, self.unit_label, self.unit_label, f"{self.column}, in order")
        return Block(x, (name,))


def _levels(table: Table, name: str, reference: str | None) -> Groups:
    groups = group_by(table, name, reference)
    if len(groups.labels) < 2:
        raise UnusableTermError(f"{name} has fewer than two levels among the rows analysed")
    if len(groups.labels) > MOST_LEVELS:
        raise UnusableTermError(
            f"{name} has {grouped(len(groups.labels))} levels; at most {MOST_LEVELS} "
            "can be compared"
        )
    return groups

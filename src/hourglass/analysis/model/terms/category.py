"""A category: each level compared with a reference, or in order with a score a level."""

from collections.abc import Mapping, Sequence
from typing import Annotated, ClassVar, Literal, Self

import numpy as np
from pydantic import Field

from hourglass.analysis.model.terms.choices import ColumnFacts, FormChoice, TypedOf
from hourglass.analysis.model.terms.column_block import (
    ColumnBlock,
    ColumnName,
    Rows,
    UnusableTermError,
)
from hourglass.analysis.model.terms.compared import Compared, Seen, Setting, braced, column_words
from hourglass.analysis.model.terms.form import TermForm
from hourglass.analysis.model.terms.number import one_ratio
from hourglass.analysis.shared import naming
from hourglass.analysis.shared.groups import MAX_LEVELS, Groups, group_by, levels_of
from hourglass.cohort.table import NumberColumn, Table
from hourglass.cohort.words import grouped
from hourglass.core.arrays import FloatArray
from hourglass.core.errors import NotEstimableError
from hourglass.core.regression.terms import trend_column


class LevelForm(TermForm):
    """Any form of a category: its columns follow from the level."""

    by_level: ClassVar[bool] = True

    def groups(self, table: Table) -> Groups:
        """The rows of a table by its levels, the reference first."""
        return group_by(table, self.column, self.reference_level or None)

    def at_value(self, value: str, table: Table, block: ColumnBlock) -> FloatArray:
        groups = self.groups(table)
        if value not in groups.labels:
            raise NotEstimableError(f"{self.column} has no level “{value}”")
        rows = np.flatnonzero(groups.code == groups.labels.index(value))
        return np.asarray(block.x[rows[0]])

    def for_rows(self, own: Table, other: Table, block: ColumnBlock) -> FloatArray:
        known, theirs = self.groups(own), group_by(other, self.column, None)
        found = np.full((other.size, block.x.shape[1]), np.nan)
        for code, label in enumerate(theirs.labels):
            if label in known.labels:
                row = np.flatnonzero(known.code == known.labels.index(label))[0]
                found[theirs.code == code] = block.x[row]
        return found


class CategoryTerm(LevelForm):
    """A category, each level compared with the reference: the column's own where none is requested."""

    against_reference: ClassVar[bool] = True
    headed: ClassVar[bool] = True
    kind: Literal["category"] = "category"
    reference: str = ""

    @property
    def reference_level(self) -> str:
        return self.reference

    @property
    def title(self) -> str:
        return f"{self.column}: reference level"

    def with_levels_named(self, names: Mapping[str, str]) -> Self:
        return self.model_copy(update={"reference": names.get(self.reference, self.reference)})

    def without_reference(self) -> Self:
        return self.model_copy(update={"reference": ""})

    def holds(self, other: TermForm) -> bool:
        return isinstance(other, TrendTerm)

    def coded(self, rows: Rows) -> ColumnBlock:
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
        return ColumnBlock(block, names)

    def compared(self, seen: Seen) -> list[Compared]:
        names = seen.block.names
        return [
            Compared(
                label=name.label, against=name.against, comparison=name.comparison,
                higher=f"in {{rows}} with {braced(name.named)} as in those with {braced(name.against)}",
                briefly=f"for {name.named} against {name.against}",
                values=values,
            )
            for name, values in zip(names, np.eye(len(names)), strict=True)
        ]  # fmt: skip

    def settings(self, seen: Seen) -> list[Setting]:
        """Its levels, the reference first."""
        levels = [name.named for name in seen.block.names]
        reference = seen.block.names[0].against
        numbers = isinstance(seen.table.column(self.column), NumberColumn)
        first = reference if numbers else f"{self.column} {reference}"
        others = zip(levels, np.eye(len(levels)), strict=True)
        return [Setting(first, np.zeros(len(levels))), *(Setting(*one) for one in others)]

    def usual_setting(self, settings: Sequence[Setting]) -> Setting:
        return settings[0]

    def offer_note(self, table: Table) -> str:
        levels = naming.listed(list(levels_of(table.column(self.column))))
        return f"{levels}, against {self.groups(table).labels[0]}"

    @classmethod
    def choices(cls, facts: ColumnFacts, now: TermForm) -> list[FormChoice]:
        term = cls(column=facts.name)
        if now.against_reference or not facts.levels:
            return []
        if facts.numbers is not None:
            note = naming.listed(list(facts.levels))
            return [FormChoice(f"Take {facts.name} as a category", term, note)]
        return [FormChoice("Level by level", term, "a ratio for each against the reference")]


class TrendTerm(LevelForm):
    """A category in the order of its levels: one ratio per step, or per unit of stated scores."""

    kind: Literal["trend"] = "trend"
    scores: Annotated[
        tuple[Annotated[float, Field(allow_inf_nan=False)], ...], Field(max_length=MAX_LEVELS)
    ] = ()

    @property
    def unit_label(self) -> str:
        return "per unit of score" if self.scores else "per level"

    def coded(self, rows: Rows) -> ColumnBlock:
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
        return ColumnBlock(x, (name,))

    def compared(self, seen: Seen) -> list[Compared]:
        step = "unit of score" if self.scores else "level"
        per = f"for each increase of {column_words(seen.table, self.column)} by one {step}"
        return [one_ratio(self, seen, per)]

    def settings(self, seen: Seen) -> list[Setting]:
        """Its scores."""
        x = seen.block.x
        return [
            Setting(f"{self.column} at score {naming.plain(float(v))}", np.array([v]))
            for v in np.unique(x[np.isfinite(x)])
        ]

    @classmethod
    def choices(cls, facts: ColumnFacts, now: TermForm) -> list[FormChoice]:
        there = isinstance(now, TrendTerm)
        if facts.numbers is not None or not facts.levels or (len(facts.levels) <= 2 and not there):
            return []
        note = "one ratio for every step from level to level, in their order"
        return [FormChoice("In order, per level", cls(column=facts.name), note)]

    def same_form(self, other: TermForm) -> bool:
        return isinstance(other, TrendTerm)

    def typed(self, facts: ColumnFacts) -> TypedOf | None:
        if facts.numbers is not None:
            return None
        scores = self.scores or tuple(float(k) for k in range(len(facts.levels)))
        return TypedOf(
            kind="scores",
            field="scores",
            label=f"Scores of {', '.join(facts.levels)}",
            value=", ".join(naming.plain(v) for v in scores),
        )


def _levels(table: Table, name: str, reference: str | None) -> Groups:
    groups = group_by(table, name, reference)
    if len(groups.labels) < 2:
        raise UnusableTermError(f"{name} has fewer than two levels among the rows analysed")
    if len(groups.labels) > MAX_LEVELS:
        raise UnusableTermError(
            f"{name} has {grouped(len(groups.labels))} levels; at most {MAX_LEVELS} can be compared"
        )
    return groups

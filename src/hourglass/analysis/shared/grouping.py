"""How rows are put into groups: by a category, by two of them crossed, or by a number at thresholds."""

from collections.abc import Mapping
from itertools import pairwise
from typing import Annotated, Self

import numpy as np
from pydantic import Field

from hourglass.analysis.shared import naming
from hourglass.analysis.shared.groups import MAX_LEVELS, Groups, group_by, levels_of
from hourglass.analysis.shared.statement import StageStatement
from hourglass.cohort.followup import Cohort
from hourglass.cohort.table import NumberColumn
from hourglass.core.arrays import FloatArray
from hourglass.core.errors import NotEstimableError
from hourglass.core.sample_quantiles import sample_quantiles
from hourglass.core.subjects import copies_of_subjects, one_for_each

MAX_THRESHOLDS = 5
CROSSED = ", "
"""What stands between the levels of two categories in the name of a group."""
Threshold = Annotated[float, Field(allow_inf_nan=False)]
Thresholds = Annotated[tuple[Threshold, ...], Field(max_length=MAX_THRESHOLDS)]


class GroupedStatement(StageStatement):
    """A statement of curves by group.

    ``by`` is a category, or a number that is split at ``thresholds``: up to the first, …, above the
    last. ``crossed`` is a second category, whose levels part those of the first.
    """

    by: str | None = None
    reference: str | None = None
    crossed: str | None = None
    thresholds: Thresholds = ()

    def columns(self) -> tuple[str, ...]:
        return tuple(name for name in (self.by, self.crossed) if name is not None)

    def with_levels_named(self, column: str, names: Mapping[str, str]) -> Self:
        reference = self.reference
        if column == self.by and reference is not None:
            reference = names.get(reference, reference)
        return self.model_copy(update={"reference": reference})

    def group_named(self, label: str, column: str, names: Mapping[str, str]) -> str:
        """The label of a group once levels of a column have other names."""
        if self.crossed is None:
            return names.get(label, label) if column == self.by else label
        for old, new in names.items():
            if column == self.by and label.startswith(f"{old}{CROSSED}"):
                return f"{new}{label[len(old) :]}"
            if column == self.crossed and label.endswith(f"{CROSSED}{old}"):
                return f"{label[: len(label) - len(old)]}{new}"
        return label


GROUP_FIELDS = tuple(
    name for name in GroupedStatement.model_fields if name not in StageStatement.model_fields
)
"""The fields that state what makes the groups."""


def grouped(cohort: Cohort, statement: GroupedStatement) -> Groups:
    """The groups of a statement; those that nobody is in are left out.

    Raises:
        NotEstimableError: when a column is gone, nobody has a value, or the groups are too many.
    """
    names = [name for name in (statement.by, statement.crossed) if name is not None]
    if statement.by is None:
        raise NotEstimableError("No category is chosen.")
    for name in names:
        require_column(cohort, name)
    parts = [_of_column(cohort, statement, names[0])]
    parts += [_by_levels(cohort, name) for name in names[1:]]
    found = _there(parts[0] if len(parts) == 1 else _crossed(*parts))
    if not found.labels:
        raise NotEstimableError(f"No row has a value of {naming.listed(names)}.")
    if len(found.labels) > MAX_LEVELS:
        raise NotEstimableError(
            f"{naming.listed(names)} would make {len(found.labels)} groups; at most "
            f"{MAX_LEVELS} are compared. Merge levels in Prepare, or choose another column."
        )
    return found


def require_column(cohort: Cohort, name: str) -> None:
    """Refuse a statement about a column that is gone.

    Raises:
        NotEstimableError: stating what to do.
    """
    if not cohort.table.has(name):
        raise NotEstimableError(
            f"There is no column “{name}” now. Bring back the step in Prepare that made it, or "
            "choose another category in the sentence above."
        )


def is_split(cohort: Cohort, statement: GroupedStatement) -> bool:
    """Whether the groups are made by thresholds of a number: stated ones, or where it has no levels."""
    if statement.by is None or not cohort.table.has(statement.by):
        return False
    column = cohort.table.column(statement.by)
    if not isinstance(column, NumberColumn):
        return False
    return bool(statement.thresholds) or not levels_of(column)


def _of_column(cohort: Cohort, statement: GroupedStatement, name: str) -> Groups:
    column = cohort.table.column(name)
    if not isinstance(column, NumberColumn) or not is_split(cohort, statement):
        return group_by(cohort.table, name, statement.reference)
    edges = thresholds_of(cohort, statement)
    if not edges.size:
        raise NotEstimableError(f"{name} cannot be split: its values are all alike, or missing.")
    code = np.searchsorted(edges, column.values, side="left")
    labels = band_labels(name, [column.written(float(e)) for e in edges])
    return Groups(name, labels, np.where(column.missing, -1, code))


def _by_levels(cohort: Cohort, name: str) -> Groups:
    found = group_by(cohort.table, name, None)
    if not found.labels:
        raise NotEstimableError(f"There are no levels of {name} that could part the groups.")
    return found


def thresholds_of(cohort: Cohort, statement: GroupedStatement) -> FloatArray:
    """(k,) where the number is split, ascending: as stated, else at its median."""
    assert statement.by is not None
    stated = statement.thresholds
    return np.unique(stated or next((edges for _, edges in splits_of(cohort, statement.by)), ()))


def band_labels(name: str, edges: list[str]) -> tuple[str, ...]:
    """Names that state on which side of a threshold its own value lies."""
    inner = [f"{name} > {a}, ≤ {b}" for a, b in pairwise(edges)]
    return (f"{name} ≤ {edges[0]}", *inner, f"{name} > {edges[-1]}")


def _crossed(a: Groups, b: Groups) -> Groups:
    code = a.code * len(b.labels) + b.code
    labels = tuple(f"{one}{CROSSED}{other}" for one in a.labels for other in b.labels)
    code = np.where((a.code < 0) | (b.code < 0), -1, code)
    levels = tuple((*one, *other) for one in a.levels for other in b.levels)
    return Groups(f"{a.column} and {b.column}", labels, code, levels)


def _there(groups: Groups) -> Groups:
    """The groups that somebody is in, in their order."""
    number = np.bincount(groups.code[groups.code >= 0], minlength=len(groups.labels))
    kept = np.flatnonzero(number)
    place = np.full(len(groups.labels) + 1, -1, dtype=np.int64)
    place[kept] = np.arange(kept.size)
    return Groups(
        groups.column,
        tuple(groups.labels[k] for k in kept),
        place[groups.code],
        tuple(groups.levels[k] for k in kept) if groups.levels else (),
        tuple(groups.tones[k] for k in kept) if groups.tones else (),
    )


def splits_of(cohort: Cohort, name: str) -> list[tuple[str, tuple[float, ...]]]:
    """Where a number can be split without a choice: at its median, its tertiles, its quartiles.

    A subject counts once, by its first row.
    """
    column = cohort.table.column(name)
    if not isinstance(column, NumberColumn):
        return []
    subject, copies = copies_of_subjects(cohort.follow_up)
    own, _ = one_for_each(subject, column.values)
    known = np.isfinite(own)
    if not known.any():
        return []
    found = []
    for title, shares in (
        ("at its median", (0.5,)),
        ("at its tertiles", (1 / 3, 2 / 3)),
        ("at its quartiles", (0.25, 0.5, 0.75)),
    ):
        edges = np.unique(sample_quantiles(own[known], copies[known], np.array(shares)))
        inside = edges[(edges >= own[known].min()) & (edges < own[known].max())]
        if inside.size:
            found.append((title, tuple(float(e) for e in inside)))
    return found

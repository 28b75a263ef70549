"""From a model statement to design columns: coding, units, and the rows left out
(methods.md, section 4: Proportional hazards regression)."""

from dataclasses import dataclass

import numpy as np

from hourglass.analysis.model.statement import CategoryTerm, DoublingTerm, ModelStatement, Term
from hourglass.analysis.shared import wording
from hourglass.analysis.shared.groups import MOST_LEVELS, group_by
from hourglass.cohort.followup import Cohort
from hourglass.cohort.table import NumberColumn, Table
from hourglass.core.arrays import FloatArray, IntArray
from hourglass.core.followup import FollowUp


class UnusableTermError(ValueError):
    """A term that cannot enter the model; the message says why."""


@dataclass(frozen=True, slots=True)
class DesignColumn:
    """One coefficient: its term, what it is called, and what it is compared with.

    ``told`` says that in words ("per 10", "against standard"); ``named`` is what it is called where
    its term is not named beside it.
    """

    term: int
    label: str
    against: str
    told: str
    named: str


@dataclass(frozen=True, slots=True)
class LeftOut:
    """Rows without a value of a column."""

    column: str
    rows: int


@dataclass(frozen=True, slots=True)
class Design:
    """The rows that can be fitted and their coded columns.

    Attributes:
        data: follow-up of the n complete rows; ``numbers``: (n,) their row numbers.
        x: (n, p) coded columns; ``columns``: what each is.
        terms: labels of the terms; ``left_out``: why rows are missing.
    """

    data: FollowUp
    numbers: IntArray
    x: FloatArray
    columns: tuple[DesignColumn, ...]
    terms: tuple[str, ...]
    left_out: tuple[LeftOut, ...]
    rows_left_out: int

    def of_term(self, term: int) -> IntArray:
        """Positions of a term's columns."""
        return np.array([k for k, c in enumerate(self.columns) if c.term == term], dtype=np.int64)


def design(cohort: Cohort, statement: ModelStatement) -> Design:
    """Code the statement's terms; a row without a value of some term is left out, and counted.

    Raises:
        UnusableTermError: when a term's column cannot be coded as asked.
        NoSuchColumnError: when a term's column is not in the table.
    """
    blocks: list[FloatArray] = []
    columns: list[DesignColumn] = []
    left_out: list[LeftOut] = []
    complete = np.ones(cohort.table.size, dtype=bool)
    for k, term in enumerate(statement.terms):
        block, labels = _code(cohort.table, term)
        missing = np.isnan(block).any(axis=1)
        if missing.any():
            left_out.append(LeftOut(term.column, int(missing.sum())))
            complete &= ~missing
        blocks.append(block)
        numbers = isinstance(cohort.table.column(term.column), NumberColumn)
        category = isinstance(term, CategoryTerm)
        columns += [
            DesignColumn(
                k,
                label,
                against,
                f"against {against}" if category else against,
                label if numbers else f"{term.column} {label}",
            )
            for label, against in labels
        ]
    if not complete.any():
        raise UnusableTermError("no row has a value for every term")
    data = cohort.follow_up if complete.all() else cohort.follow_up.only(complete)
    x = np.hstack(blocks)[complete] if blocks else np.empty((int(complete.sum()), 0))
    return Design(
        data,
        cohort.table.numbers[complete],
        x,
        tuple(columns),
        tuple(term_label(t) for t in statement.terms),
        tuple(left_out),
        int((~complete).sum()),
    )


def term_label(term: Term) -> str:
    """A term as it stands in the sentence."""
    if isinstance(term, CategoryTerm):
        return term.column
    return f"{term.column} {unit_label(term)}"


def unit_label(term: Term) -> str:
    """Per what a number's ratio is told."""
    if isinstance(term, DoublingTerm):
        return "per doubling"
    return f"per {wording.plain(term.unit)}" if not isinstance(term, CategoryTerm) else ""


def _code(table: Table, term: Term) -> tuple[FloatArray, list[tuple[str, str]]]:
    if isinstance(term, CategoryTerm):
        return _code_category(table, term)
    column = table.column(term.column)
    if not isinstance(column, NumberColumn):
        raise UnusableTermError(f"{term.column} does not hold numbers")
    values = column.values
    if isinstance(term, DoublingTerm):
        if (values[~column.missing] <= 0).any():
            raise UnusableTermError(f"{term.column} has values that are not positive to double")
        coded = np.log2(values)
    else:
        coded = values / term.unit
    return coded[:, None], [(term.column, unit_label(term))]


def _code_category(table: Table, term: CategoryTerm) -> tuple[FloatArray, list[tuple[str, str]]]:
    groups = group_by(table, term.column, term.reference)
    if len(groups.labels) < 2:
        raise UnusableTermError(f"{term.column} has fewer than two levels among the rows analysed")
    if len(groups.labels) > MOST_LEVELS:
        raise UnusableTermError(
            f"{term.column} has {wording.grouped(len(groups.labels))} levels; at most {MOST_LEVELS} "
            "can be compared"
        )
    others = np.arange(1, len(groups.labels))
    block = (groups.code[:, None] == others).astype(np.float64)
    block[groups.code < 0] = np.nan
    return block, [(label, groups.labels[0]) for label in groups.labels[1:]]

"""The variables that are tested in turn, and their tests (methods.md, section 3: Comparing groups)."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Protocol, cast

import numpy as np

from hourglass.analysis.catalogue.adjustments import ADJUSTMENTS
from hourglass.analysis.catalogue.number_splits import NUMBER_SPLITS
from hourglass.analysis.catalogue.weights import WEIGHTS
from hourglass.analysis.compare.groups import strata_of
from hourglass.analysis.compare.statement import MIN_MOVED, CompareStatement, ScreenedVariable
from hourglass.analysis.shared.groups import categories, group_by, numbers
from hourglass.cohort.followup import Cohort
from hourglass.cohort.profile import profile_of
from hourglass.cohort.table import Column, NumberColumn, once_for_each
from hourglass.core.arrays import BoolArray, IntArray
from hourglass.core.comparison.screening import Candidate, Category, Screened, screen
from hourglass.core.comparison.thresholds import threshold_p, threshold_profile
from hourglass.core.errors import NotEstimableError
from hourglass.core.followup import FollowUp
from hourglass.core.progress import ProgressCallback, no_progress

MIN_TO_IDENTIFY = 20
"""Rows from which on whole numbers that are all different are taken for an identifier."""


class Grouping(Protocol):
    """What makes the groups whose curves are drawn."""

    @property
    def complete(self) -> BoolArray:
        """(n,) True for rows that have a value."""
        ...

    def groups(self, data: FollowUp) -> IntArray:
        """(m,) the group of each complete row."""
        ...


@dataclass(frozen=True, slots=True)
class Variable:
    """A variable of the screen: what is tested of it, and the groups whose curves are drawn.

    ``how`` is what a number makes of rows, in words; blank for a category. One that is tested by the
    ``drawn`` groups themselves is ``grouped``. ``tried`` is at how many thresholds it has been split.
    """

    name: str
    labels: tuple[str, ...]
    candidate: Candidate
    drawn: Grouping
    how: str = ""
    grouped: bool = True
    tried: int = 0

    @property
    def moved(self) -> bool:
        """Whether its threshold was moved after a statistic had been seen."""
        return self.tried >= MIN_MOVED


def candidates_of(cohort: Cohort) -> tuple[str, ...]:
    """What can be tested in turn: categories, and numbers that are no identifiers."""
    named = categories(cohort)
    others = [
        n for n in numbers(cohort) if n not in named and not _identifies(cohort.table.column(n))
    ]
    return (*named, *others)


@once_for_each
def _identifies(column: Column) -> bool:
    """Whether a column numbers the rows: whole numbers, each of them once."""
    values = cast(NumberColumn, column).values
    known = values[~np.isnan(values)]
    if known.size < max(MIN_TO_IDENTIFY, 0.9 * values.size):
        return False
    return profile_of(column).distinct == known.size and bool(np.all(known == np.floor(known)))


def chosen_variables(cohort: Cohort, statement: CompareStatement) -> tuple[ScreenedVariable, ...]:
    """The variables that are tested: those that are stated and still there, else all candidates."""
    if statement.variables:
        return tuple(one for one in statement.variables if cohort.table.has(one.column))
    return tuple(ScreenedVariable(column=name) for name in candidates_of(cohort))


def variables_of(cohort: Cohort, statement: CompareStatement) -> tuple[Variable, ...]:
    """The chosen variables: a category by its levels, a number as it is stated to be split.

    Rows without a stratum are without a value of any of them.
    """
    named, within = categories(cohort), strata_of(cohort, statement) >= 0
    return tuple(
        _category(cohort, one.column, within)
        if one.column in named
        else _number(cohort, one, within, statement.tried_of(one.column))
        for one in chosen_variables(cohort, statement)
        if one.column in named or isinstance(cohort.table.column(one.column), NumberColumn)
    )


def screened(
    cohort: Cohort, statement: CompareStatement, progress: ProgressCallback = no_progress
) -> tuple[Screened, ...]:
    """The test of each variable within the stated strata, the strongest first.

    A threshold that was moved after its statistic had been seen is judged by the p of the maximum over all.
    """
    variables = variables_of(cohort, statement)
    stratum = strata_of(cohort, statement) if statement.within else None
    return screen(
        cohort.follow_up,
        [one.candidate for one in variables],
        WEIGHTS[statement.weight].method,
        stratum,
        adjustment=ADJUSTMENTS[statement.adjustment].method,
        judged={
            k: _p_of_maximum(cohort, statement, one, stratum, progress)
            for k, one in enumerate(variables)
            if one.moved
        },
    )


def _p_of_maximum(
    cohort: Cohort,
    statement: CompareStatement,
    one: Variable,
    stratum: IntArray | None,
    progress: ProgressCallback,
) -> float | None:
    """The p of the largest statistic over all thresholds of a number; None where there is none."""
    complete = one.candidate.complete
    data = cohort.follow_up.only(complete)
    x = cast(NumberColumn, cohort.table.column(one.name)).values[complete]
    within = None if stratum is None else stratum[complete]
    weight = WEIGHTS[statement.weight].method
    try:
        profile = threshold_profile(data, x, weight, within)
        return threshold_p(data, x, profile, statement.seed, weight, within, progress=progress)
    except NotEstimableError:
        return None


def in_shown_order(
    found: Sequence[Screened], variables: Sequence[Variable], statement: CompareStatement
) -> tuple[Screened, ...]:
    """The tests as they are shown: by p, or by the names of the variables."""
    if statement.order == "p":
        return tuple(found)
    return tuple(sorted(found, key=lambda one: variables[one.place].name.casefold()))


def _category(cohort: Cohort, name: str, within: BoolArray) -> Variable:
    groups = group_by(cohort.table, name, None)
    made = Category(np.where(within, groups.code, -1))
    return Variable(name, groups.labels, made, made)


def _number(cohort: Cohort, one: ScreenedVariable, within: BoolArray, tried: int) -> Variable:
    column, entry = cast(NumberColumn, cohort.table.column(one.column)), NUMBER_SPLITS[one.way]
    x = np.where(within, column.values, np.nan)
    made = entry.method.candidate(x, one.threshold)
    drawn = (entry.drawn or entry.method).candidate(x, one.threshold)
    labels = entry.labels_at(one.threshold)
    how = entry.in_words(one.threshold)
    return Variable(
        one.column,
        labels,
        made,
        cast(Grouping, drawn),
        how,
        entry.drawn is None,
        0 if one.threshold is None else tried,
    )

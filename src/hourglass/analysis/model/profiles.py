"""Whom predictions are for: a profile in words, and as the columns of a model."""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from hourglass.analysis.model.design import Design
from hourglass.analysis.model.statement import HazardsModel, Profile
from hourglass.analysis.shared.groups import level_counts, levels_of
from hourglass.cohort.followup import Cohort
from hourglass.cohort.table import NumberColumn
from hourglass.core.arrays import FloatArray
from hourglass.core.errors import NotEstimableError
from hourglass.core.regression.predicted_means import Profile as CoreProfile
from hourglass.core.regression.terms import products
from hourglass.core.sample_quantiles import sample_quantiles


@dataclass(frozen=True, slots=True)
class Whom:
    """A profile: the value of every column that the model needs, as written."""

    values: Mapping[str, str]
    stated: tuple[str, ...]

    @property
    def label(self) -> str:
        """In words: what is stated of it, or that it is usual throughout."""
        return ", ".join(f"{n} {self.values[n]}" for n in self.stated) or "all usual"

    @property
    def rest(self) -> str:
        """What is taken as usual."""
        return ", ".join(f"{n} {v}" for n, v in self.values.items() if n not in self.stated)


def columns_of_model(model: HazardsModel) -> list[str]:
    """The columns that a profile has a value of, in the order of the terms, then the strata."""
    return list(dict.fromkeys([*model.term_columns, *model.strata]))


def whom(cohort: Cohort, model: HazardsModel, profile: Profile) -> Whom:
    """A profile with what is not stated filled in: the commonest level, or the median."""
    stated = {one.column: one.value for one in profile.values}
    names = [name for name in columns_of_model(model) if cohort.table.has(name)]
    values = {name: stated.get(name) or usual(cohort, model, name) for name in names}
    return Whom(values, tuple(name for name in names if name in stated))


def is_number(model: HazardsModel, name: str) -> bool:
    """Whether the model takes a column as a number."""
    own = [t for t in model.terms if t.column == name and not t.of_terms]
    return bool(own) and not any(t.by_level for t in own)


def usual(cohort: Cohort, model: HazardsModel, name: str) -> str:
    """The median of a number, the commonest level of a category."""
    column = cohort.table.column(name)
    if isinstance(column, NumberColumn) and is_number(model, name):
        known = ~column.missing
        if not known.any():
            return ""
        count = cohort.follow_up.count[known]
        middle = sample_quantiles(column.values[known], count, np.array([0.5]))
        return column.written(float(middle[0]))
    counts = level_counts(cohort, name)
    return max(counts, key=lambda level: counts[level], default="")


def core_profile(cohort: Cohort, coded: Design, model: HazardsModel, of: Whom) -> CoreProfile:
    """A profile as the values that the model's columns are made of, in its stratum.

    Raises:
        NotEstimableError: for a value that no row has, or that is no number.
    """
    own: dict[str, FloatArray] = {}
    parts: dict[int, FloatArray] = {}
    for k, term in enumerate(coded.stated_terms):
        if not term.of_terms:
            value = of.values.get(term.column, "")
            parts[k] = own[term.column] = term.at_value(value, cohort.table, coded.blocks[k])
    for k, term in enumerate(coded.stated_terms):
        if term.of_terms:
            one, other = (own[name] for name in term.columns)
            parts[k] = products(one[None, :], other[None, :])[0]
    x = np.concatenate([parts[k] for k in range(len(coded.stated_terms))])
    return CoreProfile(x, stratum=_stratum(cohort, coded, model, of))


def _stratum(cohort: Cohort, coded: Design, model: HazardsModel, of: Whom) -> int:
    if not model.strata:
        return 0
    wanted = ", ".join(of.values[name] for name in model.strata)
    if wanted not in coded.strata:
        raise NotEstimableError(f"there is no stratum “{wanted}”")
    return coded.strata.index(wanted)


def levels_offered(cohort: Cohort, model: HazardsModel, name: str) -> list[str]:
    """Values of a column that a profile is offered: its levels, or the quartiles of a number."""
    column = cohort.table.column(name)
    if not (isinstance(column, NumberColumn) and is_number(model, name)):
        return list(levels_of(column))
    known = ~column.missing
    if not known.any():
        return []
    shares = np.array([0.1, 0.25, 0.5, 0.75, 0.9])
    found = sample_quantiles(column.values[known], cohort.follow_up.count[known], shares)
    return [column.written(float(v)) for v in np.unique(found)]

"""The main term within the levels of other variables
(methods.md, section 4: Proportional hazards regression, "Subgroups")."""

from dataclasses import dataclass

import numpy as np

from hourglass.analysis.model.fitting import FittedModel
from hourglass.analysis.model.terms.forms import in_product
from hourglass.analysis.shared.grouping import band_labels, splits_of
from hourglass.analysis.shared.groups import group_by, levels_of
from hourglass.cohort.followup import Cohort
from hourglass.cohort.table import NumberColumn
from hourglass.core.arrays import IntArray
from hourglass.core.errors import HourglassError, NotEstimableError
from hourglass.core.progress import ProgressCallback
from hourglass.core.regression.subgroups import Subgroups, subgroups


@dataclass(frozen=True, slots=True)
class SubgroupFit:
    """A variable with the fit of the main term within its levels, or why there is none."""

    name: str
    labels: tuple[str, ...] = ()
    found: Subgroups | None = None
    why: str = ""


def subgroup_fits(
    cohort: Cohort, fitted: FittedModel, names: tuple[str, ...], progress: ProgressCallback
) -> tuple[SubgroupFit, ...]:
    """The first term of a model within the levels of each variable."""
    found = []
    for name in names if fitted.design.stated_terms else ():
        progress(f"within the levels of {name}", 0.6)
        try:
            found.append(_of_variable(cohort, fitted, name))
        except HourglassError as why:
            found.append(SubgroupFit(name, why=str(why)))
    return tuple(found)


def _of_variable(cohort: Cohort, fitted: FittedModel, name: str) -> SubgroupFit:
    coded = fitted.design
    main = coded.stated_terms[0]
    fitted.require_unpenalised()
    if coded.over_time is not None:
        raise NotEstimableError(
            "within subgroups only ratios that stay the same over time are given"
        )
    if main.several or main.of_terms or name == main.column:
        raise NotEstimableError(
            "a category, or a number as it is, is needed for ratios within subgroups"
        )
    if in_product(coded.stated_terms, main.column):
        raise NotEstimableError(
            f"{main.column} is in a product, and its ratios are given within its levels there"
        )
    code, labels = _levels(cohort, name)
    own = code[coded.place]
    there = own >= 0
    data = coded.data if there.all() else coded.data.only(there)
    stratum = None if coded.stratum is None else coded.stratum[there]
    positions = [int(k) for k in coded.of_term(0)]
    found = subgroups(
        data,
        coded.x[there],
        positions,
        own[there],
        len(labels),
        ties=fitted.plain.ties,
        stratum=stratum,
    )
    return SubgroupFit(name, labels, found)


def _levels(cohort: Cohort, name: str) -> tuple[IntArray, tuple[str, ...]]:
    """(n,) the level of each row: of a category, or the thirds of a number."""
    column = cohort.table.column(name)
    if isinstance(column, NumberColumn) and not levels_of(column):
        edges = next((e for title, e in splits_of(cohort, name) if title == "at its tertiles"), ())
        if not edges:
            raise NotEstimableError("it cannot be split: its values are all alike")
        code = np.searchsorted(np.array(edges), column.values, side="left")
        labels = band_labels(name, [column.written(e) for e in edges])
        return np.where(column.missing, -1, code), labels
    groups = group_by(cohort.table, name, None)
    return groups.code, groups.labels

"""Facts that the sentence gives of a number: its unit, its knots, how many values."""

import math
from dataclasses import dataclass

import numpy as np

from hourglass.cohort.followup import Cohort
from hourglass.cohort.table import NumberColumn, once_for_each
from hourglass.core.arrays import IntArray
from hourglass.core.regression.terms import KNOT_SHARES
from hourglass.core.sample_quantiles import sample_quantiles


@dataclass(frozen=True, slots=True)
class NumberFacts:
    """Of a number of a cohort.

    Attributes:
        distinct: how many values it takes; ``positive``: whether all are above 0.
        unit: a power of ten near its standard deviation, 1 for small whole numbers.
        at_share: its quantile at every share that a spline may have a knot at.
    """

    distinct: int
    positive: bool
    unit: float
    at_share: dict[float, float]


def number_facts(cohort: Cohort, column: NumberColumn) -> NumberFacts:
    """The facts of a column of the cohort's table."""
    known = _known_of(cohort)
    if column.name not in known:
        known[column.name] = _found(column, cohort.follow_up.count)
    return known[column.name]


@once_for_each
def _known_of(cohort: Cohort) -> dict[str, NumberFacts]:
    """Facts found so far: those of one column are wanted at a time, of thousands there may be."""
    return {}


def _found(column: NumberColumn, count: IntArray) -> NumberFacts:
    there = ~column.missing
    values = column.values[there]
    shares = sorted({share for shares in KNOT_SHARES.values() for share in shares})
    if not values.size:
        return NumberFacts(0, True, 1.0, {})
    quantiles = sample_quantiles(values, count[there], np.array(shares))
    return NumberFacts(
        int(np.unique(values).size),
        bool((values > 0).all()),
        _round_unit(values, count[there].astype(np.float64)),
        {share: float(at) for share, at in zip(shares, quantiles, strict=True)},
    )


def _round_unit(values: np.ndarray, count: np.ndarray) -> float:
    known, weight = values[count > 0], count[count > 0]
    size = float(np.abs(known).max(initial=0.0)) or 1.0
    if not known.size:
        return 1.0
    mean = float(np.average(known / size, weights=weight))
    spread = size * math.sqrt(float(np.average((known / size - mean) ** 2, weights=weight)))
    return 10.0 ** math.floor(math.log10(spread)) if spread > 0 else 1.0

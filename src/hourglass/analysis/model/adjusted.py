"""Curves of a category adjusted for the other terms: everybody put at each level in turn
(methods.md, section 4: Proportional hazards regression, "Adjusted curves")."""

from dataclasses import dataclass

import numpy as np

from hourglass.analysis.model.fitting import FittedModel
from hourglass.analysis.shared.groups import group_by
from hourglass.cohort.followup import Cohort
from hourglass.core.arrays import FloatArray
from hourglass.core.errors import NotEstimableError, RefusedRowsError
from hourglass.core.progress import ProgressCallback, no_progress
from hourglass.core.regression.adjusted import AdjustedCurves, adjusted_curves
from hourglass.core.regression.terms import products

SEED = 1
PLACES = 200


@dataclass(frozen=True, slots=True)
class Adjusted:
    """The levels of the category with their tones, and their curves; or why there are none."""

    labels: tuple[str, ...]
    tones: tuple[int, ...]
    curves: AdjustedCurves | None
    blank: str = ""


def adjusted_levels(
    cohort: Cohort,
    fitted: FittedModel,
    adjusted: str,
    confidence: float,
    at: FloatArray,
    samples: int,
    progress: ProgressCallback = no_progress,
) -> Adjusted | None:
    """The adjusted curves at some times, with limits from so many refits; None where none are requested."""
    coded = fitted.design
    place = next(
        (
            k
            for k, t in enumerate(coded.stated_terms)
            if t.against_reference and t.column == adjusted
        ),
        None,
    )
    if place is None:
        return None
    block = coded.blocks[place]
    labels = (block.names[0].against, *(name.label for name in block.names))
    groups = group_by(cohort.table, coded.stated_terms[place].column, None)
    tones = tuple(groups.tone_of(label) for label in labels)
    try:
        fitted.require_unpenalised()
        fitted.require_constant_values()
        if coded.over_time is not None:
            # The rows are parted: each would be put at a level at another time.
            raise NotEstimableError("adjusted curves need ratios that stay the same over time")
        levels = [_put_at(fitted, place, k) for k in range(len(labels))]
        found = adjusted_curves(
            coded.data, coded.x, fitted.plain, levels, at, SEED, confidence, samples, progress
        )
    except (NotEstimableError, RefusedRowsError) as why:
        return Adjusted(labels, tones, None, str(why))
    return Adjusted(labels, tones, found)


def _put_at(fitted: FittedModel, place: int, level: int) -> FloatArray:
    """(n, p) the columns with the category, and its products, set to a level."""
    coded = fitted.design
    x = coded.x.copy()
    own = coded.of_term(place)
    value = np.zeros(own.size)
    if level:
        value[level - 1] = 1.0
    x[:, own] = value
    column = coded.stated_terms[place].column
    for k, term in enumerate(coded.stated_terms):
        if term.of_terms and column in term.columns:
            parts = [x[:, coded.of_term(coded.place_of(name))] for name in term.columns]
            x[:, coded.of_term(k)] = products(*parts)
    return x


def curves_without_limits(cohort: Cohort, fitted: FittedModel, adjusted: str) -> Adjusted | None:
    """The curves over the follow-up, without limits, which take hundreds of refits."""
    times = np.linspace(0.0, cohort.follow_up.end, PLACES)
    return adjusted_levels(cohort, fitted, adjusted, 0.95, times, samples=0)

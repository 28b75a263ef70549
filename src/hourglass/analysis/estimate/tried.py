"""Curves of Estimate that are only tried, while a threshold or a limit of means is being dragged."""

import numpy as np

from hourglass.analysis.estimate.curves import Estimated, estimated
from hourglass.analysis.estimate.statement import EstimateStatement
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.curves import Curve
from hourglass.analysis.shared.declared import Statements, statement_of
from hourglass.analysis.shared.figure.marks import AnyMark, step_area
from hourglass.analysis.shared.trial import Trial, tried_curves
from hourglass.cohort.followup import Cohort
from hourglass.core.curves.restricted_mean import restricted_mean
from hourglass.core.errors import NotEstimableError


def tried_estimate(cohort: Cohort, statements: Statements) -> Trial:
    """The curves and counts of the groups; with a limit, the restricted means up to it.

    Raises:
        NotEstimableError: where there are neither groups nor a limit.
    """
    found = estimated(cohort, statement_of(statements, EstimateStatement))
    limit = found.statement.limit
    if found.groups is None and limit is None:
        raise NotEstimableError("There are neither groups nor a limit to try.")
    made = tried_curves(cohort, found.curves, found.groups, limits=found.shades and limit is None)
    if limit is None:
        return made
    over = {"survival": _area(found.curves, limit)}
    return made.model_copy(
        update={"over": over, "readings": [*made.readings, _means(found, limit)]}
    )


def _area(curves: tuple[Curve, ...], limit: float) -> list[AnyMark]:
    """The mean of one curve, or the difference of two, as an area; of more there is none to be seen."""
    if len(curves) > 2:
        return []
    time = np.unique(np.concatenate([[0.0], *(curve.time for curve in curves)]))
    time = time[time < limit]
    heights = [_heights(curve, time) for curve in curves]
    low, high = np.minimum.reduce(heights), np.maximum.reduce(heights)
    if len(curves) == 1:
        low = np.zeros(time.size)
    what = "difference of the restricted means" if len(curves) == 2 else "restricted mean"
    return [step_area(what, curves[-1].tone, time, low, high, limit)]


def _heights(curve: Curve, time: np.ndarray) -> np.ndarray:
    """Survival from each time on."""
    place = np.searchsorted(curve.time, time, side="right") - 1
    return np.where(place < 0, 1.0, curve.survival[np.maximum(place, 0)])


def _means(found: Estimated, limit: float) -> str:
    """The restricted means, and the difference of two."""
    cohort, curves = found.cohort, found.curves
    until = f"restricted mean to {formatting.stated_time(limit, cohort.statement.unit)}"
    short = [curve.label for curve in curves if curve.data.end < limit]
    if short:
        return f"{until}: {formatting.listed(short)} not followed so long"
    means = [restricted_mean(curve.estimate, limit).mean for curve in curves]
    shown = [formatting.computed_time(mean, cohort.decimals) for mean in means]
    if len(curves) == 1:
        return f"{until}: {shown[0]}"
    each = formatting.listed(
        [f"{curve.label} {one}" for curve, one in zip(curves, shown, strict=True)]
    )
    if len(curves) > 2:
        return f"{until}: {each}"
    return f"{until}: {each}; difference {formatting.computed_time(means[1] - means[0], cohort.decimals)}"

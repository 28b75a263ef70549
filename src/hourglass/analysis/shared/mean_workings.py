"""Workings of a restricted mean: the area under a curve, step by step."""

import numpy as np

from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.curves import Curve
from hourglass.analysis.shared.workings import NoWorkingsError, Workings, decimal, digits
from hourglass.cohort.time_decimals import TimeDecimals
from hourglass.core.curves.restricted_mean import areas, restricted_mean
from hourglass.core.errors import NotEstimableError


def mean_workings(curve: Curve, limit: float, unit: str, decimals: TimeDecimals) -> Workings:
    """∫₀^τ S as the sum of its steps' areas, and its error from what is left of it at each event."""
    try:
        found = restricted_mean(curve.estimate, limit)
    except NotEstimableError as reason:
        raise NoWorkingsError(str(reason)) from None
    estimate = curve.estimate
    area = areas(estimate.table.time, estimate.survival, estimate.table.last, limit)
    within = int((estimate.table.time <= limit).sum())
    edges = np.concatenate([[0.0], estimate.table.time[:within], [limit]])
    left = np.append(np.cumsum(area[::-1])[::-1][1:], 0.0)
    steps = np.append(estimate.steps[:within], np.nan)
    there = left > 0  # where nothing is left the term of σ² may be infinite
    term = np.zeros(left.size)
    term[there] = np.square(left[there]) * steps[there]
    until = formatting.computed_time(limit, decimals)
    return Workings(
        title=f"Restricted mean survival time to {until} {unit}, {curve.label}: "
        f"{formatting.computed_time(found.mean, decimals)} {unit}",
        formula=(
            "mean = Σ S × length of the step, up to the limit; "
            f"{' + '.join(digits(float(a)) for a in area[:3])}"
            f"{' + …' if area.size > 3 else ''} = {digits(found.mean)}",
            "variance = Σ (area left after an event time)² × its term of σ² "
            f"= {digits(found.standard_error**2)}, standard error {digits(found.standard_error)}",
        ),
        columns=(
            decimal("from", "from", edges[:-1]),
            decimal("to", "to", edges[1:]),
            decimal("survival", "S", np.concatenate([[1.0], estimate.survival[:within]])),
            decimal("area", "area", area),
            decimal("left", "area left", left),
            decimal("sigma_term", "term of σ² at the end of the step", steps),
            decimal("variance_term", "term of the variance", term),
        ),
        note="The area under the curve up to a limit; a step at which S falls to 0 leaves none.",
    )

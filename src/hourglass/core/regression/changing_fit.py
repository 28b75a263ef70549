"""Fitting effects that change along a function of time, with rows left whole
(methods.md, section 4: Proportional hazards regression, "Time-varying effects")."""

from collections.abc import Callable

import numpy as np

from hourglass.core.arrays import FloatArray, IntArray
from hourglass.core.comparison.chi_squared import chi_squared
from hourglass.core.errors import NotEstimableError
from hourglass.core.followup import FollowUp
from hourglass.core.regression.changing import ChangingRows, changing_likelihood
from hourglass.core.regression.columns import IN_DOUBT, usable_columns
from hourglass.core.regression.effects import OverTime
from hourglass.core.regression.fit import Iterations, inverse_of, tests_of_all
from hourglass.core.regression.fitted import CoefficientStatus, HazardsFit
from hourglass.core.regression.likelihood import Likelihood
from hourglass.core.regression.newton import maximise
from hourglass.core.regression.risk_sets import RiskSets
from hourglass.core.regression.supremum import suspect
from hourglass.core.regression.ties import EXACT, TieMethod

MAX_PAIRS = 1_000_000_000
"""So many pairs of a row and an event time are summed over in a step, and no more."""


def fit_changing(
    data: FollowUp,
    x: FloatArray,
    over_time: OverTime,
    ties: TieMethod,
    stratum: IntArray | None,
    sets: RiskSets,
    on_iteration: Callable[[float], None] = lambda iterations: None,
) -> HazardsFit | None:
    """Fit columns that change with every event time, as if rows were parted there.

    Args:
        x: (n, v) values of the rows; ``over_time``: how the q columns come from them.
        ties, stratum, sets: as for :func:`hourglass.core.regression.fit.fit`.
        on_iteration: called with how many iterations are done, in parts; may raise to stop the work.

    Returns:
        the fit, its ``linear`` and ``offset`` empty; None where a column may be that of others, or a
        coefficient may run to infinity: that is decided on parted rows. So are exact ties.

    Raises:
        RefusedRowsError: naming rows with a covariate that is missing or infinite.
        NotEstimableError: for too many pairs of a row and an event time, or when the search does not settle.
    """
    pairs = int(np.maximum(sets.last - sets.first + 1, 0).sum())
    if pairs > MAX_PAIRS:
        raise NotEstimableError(
            f"an effect along a function of time needs sums over {pairs} pairs of a row and an event time, "
            f"more than the {MAX_PAIRS} there may be: let it change at stated times instead"
        )
    columns = usable_columns(x, sets.order, sets.counted)
    factor = over_time.at(sets.time)
    spread = np.sqrt(np.average(factor**2, axis=0, weights=sets.events))
    if ties is EXACT or columns.aliased or not (np.isfinite(spread) & (spread > 0)).all():
        return None
    rows = ChangingRows(sets, columns.z, over_time.source, factor / spread)
    seen, done = rows.at_events() @ sets.count[sets.event_rows], Iterations(on_iteration)

    def evaluate(beta: FloatArray) -> Likelihood:
        return changing_likelihood(rows, seen, beta, done.within)

    at_zero = evaluate(np.zeros(seen.size))
    if _may_be_aliased(at_zero.information, float(sets.events.sum())):
        return None
    found = maximise(evaluate, seen.size, done.at, at_zero=at_zero)
    if suspect(found, at_zero, pairs):
        return None
    information = found.at.information
    scale = columns.scale[over_time.source] * spread
    status: list[CoefficientStatus] = ["finite"] * seen.size
    likelihood_ratio, score = tests_of_all(at_zero, found.at.value)
    return HazardsFit(
        beta=found.beta / scale,
        covariance=inverse_of(information) / np.outer(scale, scale),
        status=tuple(status),
        aliased=(),
        value_at_zero=at_zero.value,
        value=found.at.value,
        likelihood_ratio=likelihood_ratio,
        wald=chi_squared(float(found.beta @ information @ found.beta), seen.size),
        score=score,
        size=data.size,
        events=int(sets.events.sum()),
        iterations=found.iterations,
        decrement=found.decrement,
        condition=float(np.linalg.cond(information)),
        linear=np.empty(0),
        offset=np.empty(0),
        ties=ties,
        stratum=stratum,
    )


def _may_be_aliased(information: FloatArray, events: float) -> bool:
    """Whether a column adds so little to those before it that rounding may hide whether it adds any."""
    own = np.sqrt(np.maximum(np.diag(information), 0.0))
    if not (own > IN_DOUBT * np.sqrt(events)).all():
        return True
    try:
        return bool(np.diag(np.linalg.cholesky(information / np.outer(own, own))).min() < IN_DOUBT)
    except np.linalg.LinAlgError:
        return True

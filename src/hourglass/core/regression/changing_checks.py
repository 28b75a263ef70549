"""What is made of a fit with effects that change along a function of time, rows left whole: baselines,
concordance, the test over time
(methods.md, section 4: Proportional hazards regression; section 6: Residuals and checks)."""

import numpy as np

from hourglass.core.arrays import FloatArray
from hourglass.core.followup import FollowUp
from hourglass.core.regression.changing import ChangingRows, changing_means
from hourglass.core.regression.concordance import Concordance, of_pairs
from hourglass.core.regression.effects import OverTime
from hourglass.core.regression.fitted import HazardsFit
from hourglass.core.regression.likelihood import (
    less_squares_of_means,
    means_over_factors,
    means_over_hazard,
)
from hourglass.core.regression.prediction import Baseline
from hourglass.core.regression.proportionality import (
    ProportionalityTest,
    centred_over_events,
    tested_over_time,
)
from hourglass.core.regression.risk_sets import RiskSets, columns_of
from hourglass.core.regression.time_functions import TimeFunction


def rows_of(sets: RiskSets, x: FloatArray, over_time: OverTime) -> tuple[ChangingRows, FloatArray]:
    """The rows (n, v), each value less its mean, and the means (v,)."""
    values = columns_of(x, sets.order)
    centre = sets.mean_at_risk(values)
    values -= centre[:, None]  # their differences keep all digits
    return ChangingRows(sets, values, over_time.source, over_time.at(sets.time)), centre


def changing_baselines(
    data: FollowUp, sets: RiskSets, x: FloatArray, over_time: OverTime, fitted: HazardsFit
) -> dict[int, Baseline]:
    """The baseline of each stratum that has an event, by its code (0 without strata).

    Args:
        x: (n, v) values of the rows; ``over_time``: how the q fitted columns come from them.
    """
    rows, values = rows_of(sets, x, over_time)
    m, _ = changing_means(rows, fitted.beta)
    # Columns are about one point at all times, values times the mean of each factor.
    at_values = values[rows.source] * rows.factor
    centre = at_values.mean(axis=0)
    moved = at_values - centre
    height = m.largest + moved @ fitted.beta
    squares, _ = sets.factors.squares(m.rest, m.tied)
    means, _ = means_over_hazard(sets, m)
    means = means + moved.T * m.sums.inverse
    found = {}
    for start, end in zip(sets.starts, sets.ends, strict=True):
        code, times = int(sets.stratum[start]), slice(start, end)
        own = slice(None) if fitted.stratum is None else fitted.stratum == code
        shift = float(height[times].max())
        scale = np.exp(shift - height[times])
        found[code] = Baseline(
            time=sets.time[times],
            last=float(data.exit[own].max()),
            steps=m.sums.inverse[times] * scale,
            squares=squares[times] * scale**2,
            means=means[:, times] * scale,
            shift=shift,
            centre=centre,
            beta=fitted.beta,
            covariance=fitted.covariance,
        )
    return found


def changing_proportionality(
    data: FollowUp,
    sets: RiskSets,
    x: FloatArray,
    over_time: OverTime,
    fitted: HazardsFit,
    time_function: TimeFunction,
) -> ProportionalityTest:
    """Whether each coefficient stays the same over time, as
    :func:`hourglass.core.regression.proportionality.proportionality_test` tests it.

    Raises:
        NotEstimableError: when the function of time is not defined at an event.
    """
    times, place = np.unique(sets.time, return_inverse=True)
    g = time_function.at(data, times)[place]
    centred = centred_over_events(sets, g)
    weights = np.array([np.ones(g.size), centred, centred**2])
    rows, _ = rows_of(sets, x, over_time)
    m, sums = changing_means(rows, fitted.beta, weights)
    squares = [less_squares_of_means(own, sets, m, w) for own, w in zip(sums, weights, strict=True)]
    of_events = rows.at_events() * sets.count[sets.event_rows]
    seen = np.array([np.bincount(sets.event_time, column, g.size) for column in of_events])
    residual = (seen - means_over_factors(sets, m)).T
    spread = np.sqrt(np.diag(squares[0]))
    every = np.ones(spread.size, dtype=bool)
    scaled = [own / np.outer(spread, spread) for own in squares]
    return tested_over_time(sets, g, residual / spread, scaled, spread, every)


def changing_concordance(
    data: FollowUp, sets: RiskSets, x: FloatArray, over_time: OverTime, fitted: HazardsFit
) -> Concordance:
    """Concordance of the linear predictor at each event with those at risk then, as
    :func:`hourglass.core.regression.concordance.concordance` takes it; O(n K)."""
    rows, _ = rows_of(sets, x, over_time)
    effects = rows.effects(fitted.beta)
    agree, pairs = np.zeros((2, sets.order.size))
    for block in rows.blocks():
        count, time = sets.count[block.rows], block.time
        # A column an event: several may have it at one time.
        effect = effects[:, block.start : block.end]
        against = _scores(rows.x[:, block.rows], effect)[:, time]
        there = np.ones((count.size, effect.shape[1]))
        block.clear(there, 0.0)
        there[block.place, time] = 0.0
        there = there[:, time]
        mine = against[block.place, np.arange(time.size)]
        right = (against < mine) + 0.5 * (against == mine)
        right *= there
        weight = count[block.place]
        block_agree, block_pairs = right @ weight, there @ weight
        block_agree[block.place] += count @ right
        block_pairs[block.place] += count @ there
        agree[block.rows] += block_agree
        pairs[block.rows] += block_pairs
    return of_pairs(data, sets.by_row(agree), sets.by_row(pairs))


def _scores(x: FloatArray, effects: FloatArray) -> FloatArray:
    """(m, times) the linear predictor of values (v, m), one after another, so that equal rows have equal
    ones: see :func:`scores_of`."""
    total = np.zeros((x.shape[1], effects.shape[1]))
    for column, effect in zip(x, effects, strict=True):
        total += column[:, None] * effect
    return total

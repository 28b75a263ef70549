"""The likelihood where events come one by one: rows, risk sets and their squares in one pass, in blocks
that stay near the processor (methods.md, section 4: Proportional hazards regression)."""

import numpy as np

from hourglass.core.arrays import FloatArray
from hourglass.core.regression.likelihood import (
    MIN_TOTAL_SCORE,
    Likelihood,
    cross_product,
    out_of_reach,
    relative_scores,
)
from hourglass.core.regression.risk_sets import MAX_YET_TO_ENTER, RiskSets

CELLS = 1 << 15
"""Values that are added up at a time."""


def one_by_one_likelihood(
    sets: RiskSets, x: FloatArray, seen: FloatArray, linear: FloatArray, entered: FloatArray | None
) -> Likelihood | None:
    """As :func:`.likelihood`, for :attr:`.RiskSets.one_by_one`; None where sums by difference would lose
    digits.

    Those at risk are all who are still followed less those yet to enter: one running sum each.

    Args:
        x: (p, n); ``linear``: (n,) in the order of the risk sets.
        entered: (p, m) the columns of the rows that enter late, in their order.
    """
    linear, score = relative_scores(sets, linear)
    rows, events = sets.event_rows, sets.factors.events
    upto = np.zeros(score.size + 1)
    np.cumsum(score[::-1], out=upto[-2::-1])
    total = upto[rows]
    waiting = None
    if entered is not None:
        waiting = score[sets.entering]
        yet = sets.yet_to_enter(score)
        total -= yet
        if not (yet <= MAX_YET_TO_ENTER * total).all():
            return None
    if not (
        np.isfinite(total).all() and (total > MIN_TOTAL_SCORE).all() and np.isfinite(linear).all()
    ):
        return out_of_reach(seen.size)
    value = float(sets.count[rows] @ linear[rows] - events @ np.log(total))
    step = events / total
    information = cross_product(x, score * sets.while_at_risk_by_difference(step))
    expected = np.zeros(seen.size)
    _take_means(sets, x, score, entered, waiting, total, expected, information)
    return Likelihood(value, seen - expected, information)


def _take_means(
    sets: RiskSets,
    x: FloatArray,
    score: FloatArray,
    entered: FloatArray | None,
    waiting: FloatArray | None,
    total: FloatArray,
    expected: FloatArray,
    information: FloatArray,
) -> None:
    """Add Σ d x̄ to ``expected`` (p,), and take Σ d x̄ x̄ᵀ from ``information`` (p, p)."""
    p, n = x.shape
    rows, late, events = sets.event_rows, sets.waiting, sets.factors.events
    size, alike = max(CELLS // max(p, 1), 1), bool((events == 1).all())
    after, yet = np.zeros((p, 1)), np.zeros((p, 1))
    for end in range(rows.size, 0, -size):
        start = max(end - size, 0)
        block = slice(start, end)
        low, high = int(rows[start]), n if end == rows.size else int(rows[end])
        running = np.cumsum((x[:, low:high] * score[low:high])[:, ::-1], axis=1)
        mean = np.take(running, high - 1 - rows[block], axis=1, mode="clip")
        mean += after
        after = after + running[:, -1:]
        if entered is not None and waiting is not None:
            low = int(late[start])
            high = waiting.size if end == rows.size else int(late[end])
            running = np.zeros((p, high - low + 1))
            np.cumsum(
                (entered[:, low:high] * waiting[low:high])[:, ::-1], axis=1, out=running[:, 1:]
            )
            mean -= np.take(running, high - late[block], axis=1, mode="clip")
            mean -= yet
            yet = yet + running[:, -1:]
        mean /= total[block]
        expected += mean @ events[block]
        information -= (mean if alike else mean * events[block]) @ mean.T

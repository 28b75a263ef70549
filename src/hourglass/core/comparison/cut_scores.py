"""A test of two groups as subjects move, one after the other, from one side of a cut to the other
(methods.md, section 3: Comparing groups)."""

from dataclasses import dataclass

import numpy as np

from hourglass.core.arrays import BoolArray, FloatArray, IntArray
from hourglass.core.comparison.groups import group_table
from hourglass.core.comparison.log_rank import variation_of, weigh
from hourglass.core.comparison.weights import Weight
from hourglass.core.earlier_lower import earlier_lower
from hourglass.core.event_pairs import EventPairs
from hourglass.core.followup import FollowUp

ROUNDING = 1e-12
"""A variance below this share of its first sum is nothing but rounding."""


@dataclass(frozen=True, slots=True, kw_only=True)
class CutScores:
    """What each of m subjects adds to U and V of the group that it moves to.

    V of a group is Σ κ n n_g − Σ κ n_g² over the K pairs of stratum and event time, κ the weight
    squared times d (n − d) / ((n − 1) n²). The second sum goes over pairs of rows: of two ends of
    rows, at pairs k and l of one stratum, it has ± Σ κ up to the earlier of them.

    Attributes:
        excess: (m,) U of each subject's rows; ``linear``: (m,) their part of the first sum.
        events: (m,) their events.
        kappa: (K,); ``starts``, ``ends``: where each stratum's pairs begin and end.
        subject: (q,) whose row it is that begins or ends; ``pair``: (q,) the last pair up to then.
        weight: (q,) copies, below 0 where a row begins; ``height``: (q,) Σ κ of its stratum up to then.
        rank: (q,) by pair, the strata in falling order.
    """

    excess: FloatArray
    linear: FloatArray
    events: FloatArray
    kappa: FloatArray
    starts: IntArray
    ends: IntArray
    subject: IntArray
    pair: IntArray
    weight: FloatArray
    height: FloatArray
    rank: IntArray

    def variance(self, order: IntArray) -> FloatArray:
        """(m,) V after each of the subjects in ``order`` (m,) has moved; O(m log m)."""
        position = np.empty(order.size, dtype=np.int64)
        position[order] = np.arange(order.size)
        stratum = np.searchsorted(self.starts, self.pair, side="right")
        sequence = np.lexsort((position[self.subject], stratum))
        w, h, of = self.weight[sequence], self.height[sequence], stratum[sequence]
        low_height, low = earlier_lower(self.rank[sequence], np.array([w * h, w]))
        opens = np.searchsorted(of, of, side="left")
        before = np.concatenate([[0.0], np.cumsum(w)])
        earlier = before[:-1] - before[opens]
        added = w * (w * h + 2 * (low_height + h * (earlier - low)))
        square = np.bincount(position[self.subject[sequence]], added, minlength=order.size)
        return np.cumsum(self.linear[order] - square)

    def variance_of(self, members: IntArray) -> float:
        """V of the group of these subjects; O(m + K)."""
        inside = np.zeros(self.excess.size, dtype=bool)
        inside[members] = True
        return float(self.linear[inside].sum() - self.kappa @ self.at_risk(inside) ** 2)

    def at_risk(self, inside: BoolArray) -> FloatArray:
        """(K,) how many of the subjects ``inside`` (m,) are at risk at each pair."""
        here = inside[self.subject]
        ending = np.bincount(self.pair[here], self.weight[here], minlength=self.kappa.size)
        number = np.cumsum(ending[::-1])[::-1]
        for start, end in zip(self.starts[:-1], self.ends[:-1], strict=True):
            number[start:end] -= number[end]
        return np.asarray(number, dtype=np.float64)


def cut_scores(
    data: FollowUp, subject: IntArray, weight: Weight, stratum: IntArray | None = None
) -> CutScores:
    """What each subject, by its place 0 … m − 1 in ``subject`` (n,), adds; O(n log n)."""
    table = group_table(data, np.zeros(data.exit.size, dtype=np.int64), 1, stratum)
    pairs = table.pairs
    n, d = table.all_at_risk.astype(np.float64), table.all_events.astype(np.float64)
    w = weigh(table, weight)
    kappa = w**2 * variation_of(table) / n**2
    hazard, first, heights = (_by_stratum(v, pairs) for v in (w * d / n, kappa * n, kappa))
    rows = np.concatenate([pairs.order, pairs.late])
    pair = np.concatenate([pairs.last, pairs.entered])
    copies = np.concatenate([data.count[pairs.order], -data.count[pairs.late]]).astype(np.float64)
    there = pairs.inside(pair, None if stratum is None else stratum[rows])
    rows, pair, copies = rows[there], pair[there], copies[there]
    who, m = subject[rows], int(subject.max()) + 1
    happened = data.event()
    own = pairs.order[pairs.happened]
    excess = _sum(subject[own], w[pairs.last[pairs.happened]] * data.count[own], m)
    excess -= _sum(who, hazard[pair] * copies, m)
    falling = np.argsort(pair, kind="stable")
    rank = np.empty(pair.size, dtype=np.int64)
    # Strata in falling order: nobody of an earlier one is lower.
    of = np.searchsorted(pairs.starts, pair[falling], side="right")
    rank[falling[np.argsort(-of, kind="stable")]] = np.arange(pair.size)
    return CutScores(
        excess=excess,
        linear=_sum(who, first[pair] * copies, m),
        events=_sum(subject[happened], data.count[happened].astype(np.float64), m),
        kappa=kappa,
        starts=pairs.starts,
        ends=pairs.ends,
        subject=who,
        pair=pair,
        weight=copies,
        height=heights[pair],
        rank=rank,
    )


def _by_stratum(steps: FloatArray, pairs: EventPairs) -> FloatArray:
    """(K,) the running sum of steps within each stratum."""
    running = np.empty_like(steps)
    for start, end in zip(pairs.starts, pairs.ends, strict=True):
        running[start:end] = np.cumsum(steps[start:end])
    return running


def _sum(place: IntArray, values: FloatArray, size: int) -> FloatArray:
    """(size,) the sum of the values at each place."""
    return np.asarray(np.bincount(place, values, size), dtype=np.float64)

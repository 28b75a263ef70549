"""Whether values moved among the subjects bring any cut's statistic up to a bar: bounds settle most."""

import numpy as np

from hourglass.core.arrays import BoolArray, FloatArray, IntArray
from hourglass.core.comparison.cut_scores import ROUNDING, CutScores
from hourglass.core.comparison.cuts import Cuts

COARSE = (192, 768)
FINE = (48, 8192)
"""Into how many blocks the order, and into how many bins the time, is parted: at first, and for the
cuts that are then still open."""
LOOKS = 24
"""Cuts that are looked at one by one before V is worked out at all that are open."""


class Moved:
    """The cuts of x, found again and again with x moved among m subjects, one copy each.

    V = Σ κ n n_g − Σ κ n_g², g the smaller side of a cut, is at least what it is with n_g put at its
    highest in each bin of time and each block of the order: only cuts whose statistic could still
    reach the bar are looked at closely.
    """

    def __init__(self, cuts: Cuts, scores: CutScores) -> None:
        self._cuts, self._scores = cuts, scores
        self._coarse, self._fine = _Bins(scores, COARSE[1]), _Bins(scores, FINE[1])

    def reaches(self, now_at: IntArray, bar: float) -> bool:
        """Whether a cut's statistic is ``bar`` or more once the value of i is at subject now_at[i]."""
        scores, cuts = self._scores, self._cuts
        order = now_at[cuts.order]
        ends = cuts.ends[cuts.enough_events(scores.events[order])]
        if not ends.size or bar <= 0:
            return bool(ends.size)
        square = np.cumsum(scores.excess[order])[ends] ** 2
        running = np.cumsum(scores.linear[order])
        linear = np.where(self._upper(ends), running[-1] - running[ends], running[ends])
        for bins, blocks in ((self._coarse, COARSE[0]), (self._fine, FINE[0])):
            # The last place of each block: the cuts that are open are shared out among the blocks.
            edges = ends[np.unique(np.linspace(0, ends.size - 1, blocks + 1).astype(np.int64)[1:])]
            highest = bins.highest(order, edges, self._upper(edges))
            block = np.searchsorted(edges, ends, side="left")
            # Beside the middle a block may hold cuts of both sides: those are left open.
            same = self._upper(edges)[block] == self._upper(ends)
            least = np.where(same, linear - highest[block], 0.0)
            open_ = np.flatnonzero((square > 0) & (square >= bar * least))
            ends, square, linear, least = ends[open_], square[open_], linear[open_], least[open_]
            if not ends.size:
                return False
        upper = self._upper(ends)
        open_ = np.arange(ends.size)
        for _ in range(LOOKS):
            with np.errstate(divide="ignore"):
                k = open_[int(np.argmax(square[open_] / np.maximum(least[open_], 0)))]
            v = scores.variance_of(order[: ends[k] + 1])
            if v > ROUNDING * linear[k] and square[k] >= bar * v:
                return True
            # A side that is part of this one has no larger a sum of squares.
            part = (upper == upper[k]) & ((ends >= ends[k]) if upper[k] else (ends <= ends[k]))
            least[part] = np.maximum(least[part], linear[part] - (linear[k] - v))
            open_ = open_[(open_ != k) & (square[open_] >= bar * least[open_])]
            if not open_.size:
                return False
        v_all = scores.variance(order)[ends]
        return bool(((v_all > ROUNDING * linear) & (square >= bar * v_all)).any())

    def _upper(self, places: IntArray) -> BoolArray:
        """(m,) True for places in the upper half, whose smaller side lies above them."""
        return np.asarray(2 * places >= self._cuts.order.size)


class _Bins:
    """The time of each stratum parted into bins with like shares of Σ κ n²."""

    def __init__(self, scores: CutScores, bins: int) -> None:
        of_pair = _bin_of_pair(scores, bins)
        first = np.flatnonzero(np.diff(of_pair, prepend=-1))
        self._size = first.size
        self._kappa = np.add.reduceat(scores.kappa, first)
        self._strata = [(int(of_pair[s]), int(of_pair[e - 1]) + 1) for s, e in
                        zip(scores.starts, scores.ends, strict=True)]  # fmt: skip
        # A row that begins within a bin is counted in it, and so takes itself out of those before only.
        closes = np.append(first[1:], of_pair.size) - 1
        place = of_pair[scores.pair]
        within = (scores.weight < 0) & (scores.pair < closes[place])
        counts = ~(within & np.isin(place, [low for low, _ in self._strata]))
        self._subject, self._weight = scores.subject[counts], scores.weight[counts]
        self._bin = (place - within)[counts]

    def highest(self, order: IntArray, edges: IntArray, upper: BoolArray) -> FloatArray:
        """(b,) the most that Σ κ n_g² can be in blocks of the order that end at ``edges`` (b,).

        The side g lies below a cut, or above it where ``upper``; n_g is put at its highest in a bin.
        """
        sizes = np.diff(edges, prepend=-1)
        block = np.full(order.size, edges.size, dtype=np.int64)
        block[order[: edges[-1] + 1]] = np.repeat(np.arange(edges.size), sizes)
        cell = block[self._subject] * self._size + self._bin
        number = np.bincount(cell, self._weight, minlength=(edges.size + 1) * self._size)
        number = number.reshape(-1, self._size)
        low_half = int(np.count_nonzero(~upper))
        side = np.concatenate(
            [
                np.cumsum(number[:low_half], axis=0),
                np.cumsum(number[low_half:][::-1], axis=0)[::-1][: edges.size - low_half],
            ]
        )
        for low, high in self._strata:
            side[:, low:high] = np.cumsum(side[:, low:high][:, ::-1], axis=1)[:, ::-1]
        return np.asarray(side**2 @ self._kappa)


def _bin_of_pair(scores: CutScores, bins: int) -> IntArray:
    """(K,) the bin of each pair."""
    everyone = np.ones(scores.excess.size, dtype=bool)
    mass = np.cumsum(scores.kappa * scores.at_risk(everyone) ** 2)
    share = np.floor(mass / max(mass[-1], np.finfo(float).tiny) * bins)
    opens = np.diff(share, prepend=-1) != 0
    opens[scores.starts] = True
    return np.cumsum(opens) - 1

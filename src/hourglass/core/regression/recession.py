"""Coefficients that run to infinity
(methods.md, section 4: Proportional hazards regression, "monotone likelihood").

Along a direction γ the log partial likelihood never falls if and only if, at every event time, no
row at risk has a larger z γ than the rows with the event; with exact ties, no row at risk that has
not the event then. Such directions form a cone, the cone of recession; the likelihood has a maximum
if and only if the cone holds nothing but the directions along which the likelihood is constant
(Geyer 2009). Far along a direction inside the cone only the rows with the largest z γ of each risk
set still count (with exact ties, those with the z γ of the lowest row with the event): what is left
is a likelihood stratified by z γ, which has a maximum, and that maximum is the supremum of the whole.
"""

from dataclasses import dataclass

import numpy as np
from scipy.linalg import eigh
from scipy.optimize import linprog

from hourglass.core.arrays import BoolArray, FloatArray, IntArray
from hourglass.core.errors import UndecidedError
from hourglass.core.followup import FollowUp
from hourglass.core.regression.likelihood import moments
from hourglass.core.regression.problem import evaluation
from hourglass.core.regression.risk_sets import RiskSets, risk_sets
from hourglass.core.regression.ties import EXACT, TieMethod

FEASIBLE = 1e-8
"""A constraint of unit length may be missed by so much: the linear programme's rounding."""
STRICT = 1e-6
"""Rows of one risk set this far apart along a direction (its largest entry 1) are apart."""
SAME = 1e-8
"""Values closer than this share of their range are one value, distinguished by rounding only."""
CONSTANT = 1e-10
"""A direction with less than this share of its information holds the likelihood constant."""
MAX_ADDED = 200
MAX_ROUNDS = 500
PROGRAMME = 1e-10
"""The tolerances of the linear programme, as small as it takes them."""


@dataclass(frozen=True, slots=True)
class Recession:
    """What is left of a likelihood after its coefficients have run as far as they go.

    Attributes:
        rank: (n,) the order of the rows along a direction inside the cone, equal where it ties them.
        stratum: (n,) strata within which rows of different ranks are never at risk together.
        basis: (q, q − m) directions in which the likelihood that is left is not constant.
    """

    rank: IntArray
    stratum: IntArray
    basis: FloatArray


def recession(
    data: FollowUp, sets: RiskSets, z: FloatArray, stratum: IntArray | None, ties: TieMethod
) -> Recession | None:
    """The recession of a likelihood, or None where the likelihood has a maximum.

    Args:
        data, sets, stratum, ties: follow-up of n rows, its risk sets, and what these are made by.
        z: (q, n) scaled columns in the order of the risk sets, none of them constant, or the sum of
            others, in all of them.

    Raises:
        UndecidedError: when rounding leaves it open.
    """
    cone = _Cone(sets, z, ties)
    if cone.strict(cone.farthest(cone.inward())) is None:
        return None
    by_row = sets.columns_by_row(z)
    rank = np.zeros(z.shape[1], dtype=np.int64)
    left = rank if stratum is None else stratum
    within = cone
    for _ in range(z.shape[0]):
        along = within.strict(within.farthest(within.inward()))
        if along is None:
            break
        rank = _together(rank, within.sets.by_row(along))
        left = rank if stratum is None else _together(stratum, rank)
        apart = risk_sets(data, ties, left)
        within = _Cone(apart, apart.ordered_columns(by_row), ties)
    basis = _informative(cone, within)
    return Recession(rank, left, basis)


def recession_directions(
    sets: RiskSets, z: FloatArray, ties: TieMethod
) -> tuple[BoolArray, BoolArray]:
    """(q,) twice: True where a direction of the cone has the coefficient rising, and falling.

    A coefficient with neither stays finite; of one with both the rows fit any value equally well.

    Raises:
        UndecidedError: when rounding leaves it open.
    """
    cone = _Cone(sets, z, ties)
    rises, falls = np.zeros(z.shape[0], dtype=bool), np.zeros(z.shape[0], dtype=bool)
    for k, axis in enumerate(np.eye(z.shape[0])):
        rises[k] = cone.farthest(axis)[k] > STRICT
        falls[k] = cone.farthest(-axis)[k] < -STRICT
    return rises, falls


def _together(a: IntArray, b: IntArray) -> IntArray:
    """(n,) a code for each pair of codes, in order of the first, then the second."""
    return np.unique(a * (b.max() + 1) + b, return_inverse=True)[1]


def _informative(all_: "_Cone", left: "_Cone") -> FloatArray:
    """(q, q − m) the directions about which the risk sets that are left still hold information."""
    share, vectors = eigh(left.at_zero(), all_.at_zero())
    return np.asarray(vectors[:, share > CONSTANT])


class _Cone:
    """The cone of recession, by the constraints met so far: those that are missed are added."""

    def __init__(self, sets: RiskSets, z: FloatArray, ties: TieMethod) -> None:
        self.sets = sets
        self._z, self._ties = z, ties
        self._constraints = np.empty((0, z.shape[0]))

    def at_zero(self) -> FloatArray:
        """(q, q) the information where all coefficients are 0."""
        q, n = self._z.shape
        return evaluation(self.sets, self._z, np.zeros(n), self._ties)(np.zeros(q)).information

    def inward(self) -> FloatArray:
        """(q,) an aim that grows along every direction of the cone that parts a risk set."""
        m = moments(self.sets, self._z, np.zeros(self._z.shape[1]))
        rows = self.sets.event_rows
        count = self.sets.count[rows]
        return np.array(
            [
                (column[rows] - mean[self.sets.event_time]) @ count
                for column, mean in zip(self._z, m.mean, strict=True)
            ]
        )

    def farthest(self, aim: FloatArray) -> FloatArray:
        """(q,) the direction of the cone, its entries within ±1, that goes farthest along the aim."""
        size = np.abs(aim).max()
        if size == 0:
            return np.zeros(aim.size)
        for _ in range(MAX_ROUNDS):
            bounds = self._constraints
            found = linprog(
                np.asarray(-aim / size, np.float64),
                A_ub=-bounds,
                b_ub=np.zeros(bounds.shape[0]),
                bounds=(-1, 1),
                method="highs",
                options={
                    "primal_feasibility_tolerance": PROGRAMME,
                    "dual_feasibility_tolerance": PROGRAMME,
                },
            )
            if found.x is None:
                raise UndecidedError("rounding leaves open whether a coefficient is finite")
            direction = np.asarray(found.x, dtype=np.float64)
            missed = self._missed(direction)
            if missed.size == 0:
                return direction
            self._constraints = np.vstack([bounds, missed])
        raise UndecidedError("whether a coefficient is finite was not settled")

    def _missed(self, direction: FloatArray) -> FloatArray:
        """(m, q) constraints that the direction does not fulfil: event row less a row at risk."""
        along = direction @ self._z
        rows, time = self.sets.event_rows, self.sets.event_time
        highest = self._highest(along)[time]
        highest = np.where(highest < 0, rows, highest)
        short = along[rows] - along[highest]
        short_ones = np.flatnonzero(short < 0)
        apart = (self._z[:, rows[short_ones]] - self._z[:, highest[short_ones]]).T
        length = np.sqrt(np.square(apart).sum(axis=1))
        missed = np.flatnonzero((length > 0) & (short[short_ones] < -FEASIBLE * length))
        by_angle = np.argsort(short[short_ones][missed] / length[missed])
        worst = missed[by_angle][:MAX_ADDED]
        return np.asarray(apart[worst] / length[worst, None])

    def _highest(self, along: FloatArray) -> IntArray:
        """(K,) the row of each risk set that events are held against: the highest, −1 where there is none."""
        return self.sets.highest_at_risk(along, beside_events=self._ties is EXACT)

    def strict(self, direction: FloatArray) -> IntArray | None:
        """(n,) the order of the rows along a direction; None if no risk set is parted by it."""
        along = direction @ self._z
        lowest = self._highest(-along)[self.sets.event_time]
        parted = np.where(lowest < 0, 0.0, along[self.sets.event_rows] - along[lowest])
        if parted.max() <= STRICT:
            return None
        order = np.argsort(along, kind="stable")
        steps = np.diff(along[order]) > SAME * np.ptp(along)
        rank = np.empty(along.size, dtype=np.int64)
        rank[order] = np.concatenate([[0], np.cumsum(steps)])
        return rank

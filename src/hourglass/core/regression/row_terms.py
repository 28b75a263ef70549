"""The log partial likelihood row by row, at any coefficients
(methods.md, section 4: Proportional hazards regression)."""

from dataclasses import dataclass

import numpy as np

from hourglass.core.arrays import BoolArray, FloatArray, IntArray
from hourglass.core.errors import NotEstimableError
from hourglass.core.followup import FollowUp
from hourglass.core.regression.columns import scores_of
from hourglass.core.regression.risk_sets import risk_sets
from hourglass.core.regression.ties import EXACT, TieMethod

MAX_FACTORS = 1_000_000


@dataclass(frozen=True, slots=True, kw_only=True)
class RowTerms:
    """What each of n rows adds, rows in order of exit within their stratum.

    Attributes:
        row: (n,) the data row at each place; ``event``: (n,) whether it ends with the event.
        linear, score: (n,) x β and exp(x β).
        at_risk: (n,) Σ w exp(x β) of the risk set at the row's own time, ``tied`` (n,) that of the rows
            with the event then; 0 for rows without the event.
        factor: (n,) the factor φ of a row with one copy: at_risk − f · tied, ``left_out`` (n,) its f.
        term: (n,) w x β less the sum of ln φ over the row's factors; 0 without the event.
    """

    row: IntArray
    event: BoolArray
    linear: FloatArray
    score: FloatArray
    at_risk: FloatArray
    tied: FloatArray
    left_out: FloatArray
    factor: FloatArray
    term: FloatArray

    @property
    def value(self) -> float:
        """ln L, the sum of the terms."""
        return float(self.term.sum())


def row_terms(
    data: FollowUp,
    x: FloatArray,
    beta: FloatArray,
    ties: TieMethod,
    stratum: IntArray | None = None,
) -> RowTerms:
    """Terms of rows with columns ``x`` (n, p) at coefficients ``beta`` (p,).

    Raises:
        NotEstimableError: with exact ties, whose likelihood is no sum over rows, or with too many events.
    """
    if ties is EXACT:
        raise NotEstimableError("with exact ties the likelihood is no sum over rows")
    sets = risk_sets(data, ties, stratum)
    if sets.events.sum() > MAX_FACTORS:
        raise NotEstimableError("there are too many events to write each of them out")
    linear = sets.ordered(scores_of(x.T, beta))
    score = np.exp(linear)
    rest, tied = sets.over(score * sets.count)
    n = linear.size
    at_risk, of_tied, left_out, factor, term = (np.zeros(n) for _ in range(5))
    rows, j = sets.event_rows, sets.event_time
    event = np.zeros(n, dtype=bool)
    event[rows] = True
    at_risk[rows], of_tied[rows] = (rest + tied)[j], tied[j]
    # The factors of a time are dealt out to its rows in turn, to each as many as it has copies.
    copies = sets.count[rows].astype(np.int64)
    owner = np.repeat(np.arange(rows.size), copies)
    first = np.concatenate([[0], np.cumsum(copies)[:-1]])
    opens = np.concatenate([[True], np.diff(j) != 0])
    begin = np.maximum.accumulate(np.where(opens, first, 0))
    place = np.arange(owner.size) - begin[owner]
    # Where the factors of a time are alike, none leaves anything out.
    differ = np.isin(j[owner], sets.factors.tied)
    share = np.where(differ, place / sets.events[j[owner]], 0.0)
    phi = at_risk[rows[owner]] - share * of_tied[rows[owner]]
    left_out[rows], factor[rows] = share[first], phi[first]
    sums = np.bincount(owner, np.log(phi), rows.size)
    term[rows] = copies * linear[rows] - sums
    return RowTerms(
        row=sets.order,
        event=event,
        linear=linear,
        score=score,
        at_risk=at_risk,
        tied=of_tied,
        left_out=left_out,
        factor=factor,
        term=term,
    )

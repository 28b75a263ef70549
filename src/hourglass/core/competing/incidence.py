"""The cumulative incidence of each cause (methods.md, section 5: Competing events)."""

from dataclasses import dataclass

import numpy as np

from hourglass.core.arrays import FloatArray, IntArray
from hourglass.core.errors import NotEstimableError
from hourglass.core.followup import FollowUp
from hourglass.core.normal import normal_quantile
from hourglass.core.risk_table import RiskTable, risk_table


@dataclass(frozen=True, slots=True)
class CauseTable:
    """Numbers at risk and events of each of ``causes`` at the K times of an event of any cause.

    Attributes:
        any: the risk table of events of any cause.
        causes: (C,) their statuses, ascending; ``events``: (K, C) of each.
        before: (K,) all-cause survival just before each time (Kaplan & Meier 1958).
        survival: (K,) and at it.
    """

    any: RiskTable
    causes: tuple[int, ...]
    events: IntArray
    before: FloatArray
    survival: FloatArray

    def of(self, cause: int) -> FloatArray:
        """(K,) events of one cause; none where it never happened."""
        if cause not in self.causes:
            return np.zeros(self.any.time.size)
        return self.events[:, self.causes.index(cause)].astype(np.float64)


def cause_table(data: FollowUp) -> CauseTable:
    """Events by cause; O(n log n)."""
    happened = data.status > 0
    table = risk_table(data, happened)
    causes = np.unique(data.status[happened])
    events = np.zeros((table.time.size, causes.size), dtype=np.int64)
    place = np.searchsorted(table.time, data.exit[happened])
    which = np.searchsorted(causes, data.status[happened])
    np.add.at(events, (place, which), data.count[happened])
    n, d = table.at_risk.astype(np.float64), table.events.astype(np.float64)
    survival = np.cumprod((n - d) / n, dtype=np.float64)
    before = np.concatenate([[1.0], survival[:-1]])[: survival.size]
    return CauseTable(table, tuple(map(int, causes)), events, before, survival)


@dataclass(frozen=True, slots=True, kw_only=True)
class Incidence:
    """The cumulative incidence F of a cause at the K times of an event of any cause.

    Attributes:
        time, value: (K,) F.
        variance: (K,) by the delta method (Dinse & Larson 1986; Marubini & Valsecchi 1995).
        lower, upper: (K,) interval on the ln(−ln(1 − F)) scale; NaN where F is 0 or 1, or 1 − F has
            no error.
        last: the largest observed time, past which F is not read.
    """

    cause: int
    time: FloatArray
    value: FloatArray
    variance: FloatArray
    lower: FloatArray
    upper: FloatArray
    last: float


def incidence(table: CauseTable, cause: int, confidence: float = 0.95) -> Incidence:
    """The cumulative incidence of a cause (Aalen & Johansen 1978).

    With G_j = F(t) − F(t_j) and O the cumulative incidence of all other causes, the variance is
    Σ a_j (S(t) + O(t) − O(t_j−))² + Σ b_j G_j², a_j and b_j ≥ 0: the terms of the published formula
    with the square completed, so that nothing cancels and one pass adds it up for all t.

    Raises:
        NotEstimableError: for a status that is no cause.
    """
    if cause < 1:
        raise NotEstimableError("a cause is a status of 1 or more")
    n, d = table.any.at_risk.astype(np.float64), table.any.events.astype(np.float64)
    of = table.of(cause)
    step, other_step = table.before * of / n, table.before * (d - of) / n
    value, other = np.cumsum(step), np.cumsum(other_step)
    with np.errstate(divide="ignore", invalid="ignore"):
        a = np.where(of < n, of / (n - of) / n, 0.0)
        b = np.where(d < n, (d - of) / (n - d) / (n - of), 0.0)
    # O(t) − O(t_j−) counts the step at t_j itself, so the weight is there before the step is.
    linear, square = _growing(other_step, a, own=True)
    weight = np.cumsum(a)
    s = table.survival
    variance = s**2 * weight + 2 * s * linear + square + _growing(step, b, own=False)[1]
    lower, upper = _limits(value, s + other, variance, normal_quantile(confidence))
    return Incidence(
        cause=cause,
        time=table.any.time,
        value=value,
        variance=variance,
        lower=lower,
        upper=upper,
        last=table.any.last,
    )


def _growing(step: FloatArray, weight: FloatArray, *, own: bool) -> tuple[FloatArray, FloatArray]:
    """(K,) Σ_{j≤k} w_j D_jk and Σ w_j D_jk², D_jk the sum of the steps after j up to k.

    With ``own`` the step at j counts as well.
    """
    there = np.cumsum(weight)
    if not own:
        there = there - weight
    linear = np.cumsum(step * there)
    before = np.concatenate([[0.0], linear[:-1]])[: linear.size]
    square = np.cumsum(step * (2 * before + step * there))
    return linear, square


def _limits(
    value: FloatArray, rest: FloatArray, variance: FloatArray, z: float
) -> tuple[FloatArray, FloatArray]:
    """1 − (1 − F)^exp(± z √Var / ((1 − F) ln(1 − F))), with ``rest`` = 1 − F."""
    lower, upper = np.full_like(value, np.nan), np.full_like(value, np.nan)
    has = (value > 0) & (rest > 0)
    log = np.where(value[has] < 0.5, np.log1p(-value[has]), np.log(rest[has]))
    stretch = np.exp(-z * np.sqrt(variance[has]) / rest[has] / log)
    lower[has], upper[has] = -np.expm1(log / stretch), -np.expm1(log * stretch)
    return lower, upper

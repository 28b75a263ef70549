"""Chi-squared tests of a statistic, and of a quadratic form whose variance may be singular."""

from dataclasses import dataclass

import numpy as np
from scipy.linalg import cho_factor, cho_solve
from scipy.linalg.lapack import dpstrf
from scipy.sparse import csr_array
from scipy.sparse.csgraph import connected_components
from scipy.special import chdtrc

from hourglass.core.arrays import BoolArray, FloatArray, IntArray

NO_RANK = 1e-10
"""A variance that is left below this share of its own, beside the others, adds no rank."""


@dataclass(frozen=True, slots=True)
class Test:
    """A chi-squared test. Without a statistic, ``blank`` gives the reason there is none."""

    __test__ = False  # a statistical test, not one of pytest's

    statistic: float | None
    df: int
    p: float | None
    blank: str | None = None


def no_test(why: str) -> Test:
    """No test, for a reason."""
    return Test(None, 0, None, why)


def chi_squared(statistic: float, df: int) -> Test:
    """The test of a statistic against chi-squared with ``df`` degrees of freedom."""
    return Test(statistic, df, float(chdtrc(df, statistic)))


def components(at_risk: IntArray, counts: BoolArray) -> IntArray:
    """(G,) a label for each group: those linked through others at risk together share one.

    Args:
        at_risk: (G, K) how many of each group are at risk at each event time.
        counts: (K,) which event times count.
    """
    first = int(np.argmax(counts)) if counts.size else 0
    if counts.any() and (at_risk[:, first] > 0).all():
        return np.zeros(at_risk.shape[0], dtype=np.int64)
    linked = (at_risk > 0)[:, counts]
    changes = np.ones(linked.shape[1], dtype=bool)
    changes[1:] = (linked[:, 1:] != linked[:, :-1]).any(axis=0)
    linked = linked[:, changes].astype(np.float64)
    together = linked @ linked.T
    meets = csr_array((together > 0).astype(np.int8))
    return np.asarray(connected_components(meets, directed=False)[1], dtype=np.int64)


def quadratic_form(u: FloatArray, v: FloatArray, label: IntArray) -> Test:
    """Uᵀ V⁻ U, dropping one group of each component.

    Args:
        u: (G,) sums over the event times; ``v``: (G, G) their covariance.
        label: (G,) the component of each group.
    """
    kept = np.ones(u.size, dtype=bool)
    kept[np.unique(label, return_index=True)[1]] = False
    df = int(kept.sum())
    if df == 0:
        return no_test("no two groups are at risk together at an event time")
    return chi_squared(_form(u[kept], v[np.ix_(kept, kept)]), df)


def of_rank(u: FloatArray, v: FloatArray) -> Test:
    """Uᵀ V⁻ U with the rank of V as its degrees of freedom."""
    varies = np.flatnonzero(np.diag(v) > 0)
    if varies.size == 0:
        return no_test("nothing in which the groups could differ was seen")
    scale = np.sqrt(np.diag(v)[varies])
    inner = v[np.ix_(varies, varies)] / np.outer(scale, scale)
    _, pivots, rank, _ = dpstrf(inner, tol=NO_RANK)
    kept = varies[pivots[:rank] - 1]
    return chi_squared(_form(u[kept], v[np.ix_(kept, kept)]), int(rank))


def _form(u: FloatArray, v: FloatArray) -> float:
    scale = np.sqrt(np.diag(v))
    scaled = u / scale
    return float(scaled @ cho_solve(cho_factor(v / np.outer(scale, scale)), scaled))

"""Chi-squared tests of a statistic, and of a quadratic form whose variance may be singular."""

from dataclasses import dataclass

import numpy as np
from scipy.sparse import csr_array
from scipy.sparse.csgraph import connected_components
from scipy.special import chdtrc

from hourglass.core.arrays import FloatArray


@dataclass(frozen=True, slots=True)
class Test:
    """A chi-squared test. Without a statistic, ``blank`` says why there is none."""

    __test__ = False  # a statistical test, not one of pytest's

    statistic: float | None
    df: int
    p: float | None
    blank: str | None = None


def chi_squared(statistic: float, df: int) -> Test:
    """The test of a statistic against chi-squared with ``df`` degrees of freedom."""
    return Test(statistic, df, float(chdtrc(df, statistic)))


def quadratic_form(u: FloatArray, v: FloatArray, linked: np.ndarray) -> Test:
    """Uᵀ V⁻ U, dropping one group of each component of the graph of groups at risk together.

    Args:
        u: (G,) sums over the event times; ``v``: (G, G) their covariance.
        linked: (m, G) which groups are at risk at each event time that counts.
    """
    meets = csr_array((linked.T.astype(np.float64) @ linked) > 0)
    components, label = connected_components(meets, directed=False)
    df = u.size - components
    if df == 0:
        return Test(None, 0, None, "no two groups are at risk together at an event time")
    first_of_component = np.zeros(u.size, dtype=bool)
    first_of_component[np.unique(label, return_index=True)[1]] = True
    kept = ~first_of_component
    scale = np.sqrt(np.diag(v)[kept])
    scaled = u[kept] / scale
    inner = v[np.ix_(kept, kept)] / np.outer(scale, scale)
    return chi_squared(float(scaled @ np.linalg.solve(inner, scaled)), df)

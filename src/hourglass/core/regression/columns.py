"""Centring, scaling and aliasing of design columns before a fit
(methods.md, section 4: Proportional hazards regression)."""

from dataclasses import dataclass

import numpy as np
from scipy.linalg import qr

from hourglass.core.arrays import BoolArray, FloatArray, IntArray
from hourglass.core.errors import Refusal, RefusedRowsError
from hourglass.core.regression.likelihood import cross_product
from hourglass.core.regression.risk_sets import BLOCK, columns_of

ALIASED = 1e-9
"""A column whose part not explained by earlier ones is below this share of it adds nothing."""
IN_DOUBT = 1e-4
"""Below this share sums of squares do not distinguish a column from a sum of others."""
FAR = 256
"""Powers of two within which a value, its square and their sums are far from the ends of a float."""
CONSTANT = 1e-13
"""A standard deviation below this share of the largest value is rounding."""
NO_DIFFERENCE = (
    "does not vary, beyond the columns before it, among the rows at risk at any event time"
)
WIDEST = 1e140
"""A standard deviation beyond this, or below its inverse, has no square a float can hold."""


@dataclass(frozen=True, slots=True)
class Aliased:
    """A column left out of the fit, by position, and why."""

    column: int
    reason: str


@dataclass(frozen=True, slots=True)
class Columns:
    """Centred, scaled columns that carry information of their own.

    Attributes:
        z: (q, n) kept columns with mean 0 and standard deviation 1 among the rows that count, rows in
            the order requested.
        kept: (q,) their positions in the original matrix; ``scale``: (q,) original SDs.
        aliased: those left out.
    """

    z: FloatArray
    kept: IntArray
    scale: FloatArray
    aliased: tuple[Aliased, ...]

    def linear(self, beta: FloatArray) -> FloatArray:
        """(n,) the linear predictor at coefficients (q,)."""
        return scores_of(self.z, beta)

    def without(self, lost: BoolArray, why: str) -> "Columns":
        """The columns that are not lost (q,), which are left out for a reason."""
        if not lost.any():
            return self
        more = tuple(Aliased(int(k), why) for k in self.kept[lost])
        aliased = tuple(sorted(self.aliased + more, key=lambda a: a.column))
        return Columns(self.z[~lost], self.kept[~lost], self.scale[~lost], aliased)


def usable_columns(x: FloatArray, order: IntArray, count: FloatArray) -> Columns:
    """Centre and scale ``x`` (n, p), leaving out constant and linearly dependent columns.

    Values are centred before they are scaled, so that a column far from 0 keeps its digits; very large
    or small ones are first moved by a power of two. Of columns that depend on each other the earliest
    stay: the caller's order decides.

    Args:
        order: (n,) the row at each place.
        count: (n,) copies of the row at each place, 0 for one that is at risk at no event time: its
            values neither move nor stretch the columns of the others.

    Raises:
        RefusedRowsError: naming rows with a covariate that is missing or infinite.
    """
    if not np.isfinite(x).all():
        rows = np.flatnonzero(~np.isfinite(x).all(axis=1))
        raise RefusedRowsError((Refusal("a covariate is missing or infinite", rows),))
    share, everywhere = count / count.sum(), bool((count > 0).all())
    z = columns_of(x, order)
    constant = np.ptp(z, axis=1) == 0 if x.size else np.zeros(x.shape[1], dtype=bool)
    spread, varies = np.empty(x.shape[1]), np.empty(x.shape[1], dtype=bool)
    for k in range(x.shape[1]):
        here = z[k] if everywhere else z[k][share > 0]
        size = int(np.frexp(max(here.max(), -here.min()))[1])
        moved = size if abs(size) > FAR else 0
        if moved:
            np.ldexp(z[k], -moved, out=z[k])
        z[k] -= share @ z[k]
        z[k] -= share @ z[k]
        scale = float(np.sqrt(share @ z[k] ** 2))
        varies[k] = scale > np.ldexp(CONSTANT, size - moved)
        with np.errstate(over="ignore", under="ignore"):
            spread[k] = np.ldexp(scale, moved)
        if varies[k]:
            z[k] /= scale
    fits = (spread > 1 / WIDEST) & (spread < WIDEST)
    found = Columns(z, np.arange(x.shape[1]), spread, ())
    found = found.without(constant, "takes one value in all rows")
    found = found.without(~varies[~constant], NO_DIFFERENCE)
    beyond = "is spread too little or too widely to compute with; rescale it"
    found = found.without(~fits[found.kept], beyond)
    if not found.kept.size:
        return found
    return found.without(_repeats(found.z, share), "is determined by the columns before it")


def _repeats(z: FloatArray, share: FloatArray) -> BoolArray:
    """(q,) True for a column that is a sum of those before it: by their squares, in doubt by rotations."""
    try:
        if np.diag(np.linalg.cholesky(cross_product(z, share))).min() > IN_DOUBT:
            return np.zeros(z.shape[0], dtype=bool)
    except np.linalg.LinAlgError:
        pass
    r: FloatArray = np.empty((0, z.shape[0]))
    for start in range(0, share.size, BLOCK):
        part = z[:, start : start + BLOCK] * np.sqrt(share[start : start + BLOCK])
        rows = np.vstack([r, part.T])
        r = np.asarray(qr(rows, mode="r", overwrite_a=True)[0][: z.shape[0]], dtype=np.float64)
    own = np.zeros(z.shape[0])
    own[: r.shape[0]] = np.abs(np.diag(r))
    return np.asarray(own < ALIASED)


def scores_of(columns: FloatArray, beta: FloatArray) -> FloatArray:
    """(n,) β z of columns (q, n), one after another, so that equal rows have equal scores.

    A product of matrices rounds by where a row stands, which would untie what is tied.
    """
    total = np.zeros(columns.shape[1])
    for b, column in zip(beta, columns, strict=True):
        total += b * column
    return total

"""Centring, scaling and aliasing of design columns before a fit
(methods.md, section 4: Proportional hazards regression)."""

from dataclasses import dataclass

import numpy as np

from hourglass.core.arrays import FloatArray, IntArray

ALIASED = 1e-9
"""A column whose part not explained by earlier ones is below this share of it adds nothing."""

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
        z: (n, q) kept columns with mean 0 and standard deviation 1 (counts included).
        kept: (q,) their positions in the original matrix; ``scale``: (q,) original SDs.
        aliased: those left out.
    """

    z: FloatArray
    kept: IntArray
    scale: FloatArray
    aliased: tuple[Aliased, ...]


def usable_columns(x: FloatArray, count: FloatArray) -> Columns:
    """Centre and scale ``x`` (n, p), leaving out constant and linearly dependent columns.

    Of columns that depend on each other the earliest stay, so the caller's order decides.
    """
    share = count / count.sum()
    size = np.abs(x).max(axis=0, initial=0.0)
    size[size == 0] = 1.0
    unit = x / size  # so that squares neither overflow nor vanish
    z = unit - share @ unit
    scale = np.sqrt(share @ z**2)
    varies = scale > 1e-13
    aliased = [Aliased(int(k), "takes one value in all rows") for k in np.flatnonzero(~varies)]
    spread = scale * size
    fits = (spread > 1 / WIDEST) & (spread < WIDEST)
    beyond = "is spread too little or too widely to compute with; rescale it"
    aliased += [Aliased(int(k), beyond) for k in np.flatnonzero(varies & ~fits)]
    kept = np.flatnonzero(varies & fits)
    z = z[:, kept] / scale[kept]
    if kept.size:
        r = np.linalg.qr(z * np.sqrt(share)[:, None], mode="r")
        own = np.abs(np.diag(r))
        own = np.concatenate([own, np.zeros(kept.size - own.size)])
        repeats = own < ALIASED
        why = "is determined by the columns before it"
        aliased += [Aliased(int(k), why) for k in kept[repeats]]
        kept, z = kept[~repeats], z[:, ~repeats]
    return Columns(
        z, kept, scale[kept] * size[kept], tuple(sorted(aliased, key=lambda a: a.column))
    )

"""Adjusting p-values for how many there are (methods.md, section 3: Comparing groups)."""

from collections.abc import Sequence
from typing import Protocol

import numpy as np

from hourglass.core.arrays import FloatArray


class Adjustment(Protocol):
    """A way to adjust several p-values."""

    @property
    def key(self) -> str:
        """What it is called in a statement."""
        ...

    def ordered(self, p: FloatArray) -> FloatArray:
        """(m,) adjusted, from ascending ``p`` (m,), not yet held to 1."""
        ...


class NoAdjustment:
    """As they are."""

    key = "none"

    def ordered(self, p: FloatArray) -> FloatArray:
        return p


class Bonferroni:
    """m p."""

    key = "Bonferroni"

    def ordered(self, p: FloatArray) -> FloatArray:
        return p.size * p


class Sidak:
    """1 − (1 − p)^m."""

    key = "Šidák"

    def ordered(self, p: FloatArray) -> FloatArray:
        with np.errstate(divide="ignore"):
            return np.asarray(-np.expm1(p.size * np.log1p(-p)))


class Holm:
    """The largest of (m − i + 1) p_i so far, going up (Holm 1979)."""

    key = "Holm"

    def ordered(self, p: FloatArray) -> FloatArray:
        return np.maximum.accumulate(np.arange(p.size, 0, -1) * p)


class Hochberg:
    """The smallest of (m − i + 1) p_i so far, going down (Hochberg 1988)."""

    key = "Hochberg"

    def ordered(self, p: FloatArray) -> FloatArray:
        return np.minimum.accumulate((np.arange(p.size, 0, -1) * p)[::-1])[::-1]


class FalseDiscoveries:
    """The smallest of m p_i / i so far, going down (Benjamini & Hochberg 1995)."""

    key = "Benjamini–Hochberg"

    def ordered(self, p: FloatArray) -> FloatArray:
        return np.minimum.accumulate((p.size / np.arange(1, p.size + 1) * p)[::-1])[::-1]


NO_ADJUSTMENT, BONFERRONI, SIDAK = NoAdjustment(), Bonferroni(), Sidak()
HOLM, HOCHBERG, FALSE_DISCOVERIES = Holm(), Hochberg(), FalseDiscoveries()
ADJUSTMENTS: tuple[Adjustment, ...] = (
    NO_ADJUSTMENT,
    BONFERRONI,
    SIDAK,
    HOLM,
    HOCHBERG,
    FALSE_DISCOVERIES,
)


def adjusted(p: Sequence[float | None], adjustment: Adjustment) -> list[float | None]:
    """Each p adjusted over those that are defined; None stays None."""
    defined = np.array([k for k, one in enumerate(p) if one is not None], dtype=np.int64)
    found: list[float | None] = [None] * len(p)
    if defined.size:
        values = np.array([one for one in p if one is not None], dtype=np.float64)
        order = np.argsort(values, kind="stable")
        held = np.minimum(adjustment.ordered(values[order]), 1.0)
        for place, value in zip(defined[order], held, strict=True):
            found[place] = float(value)
    return found

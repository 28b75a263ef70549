"""How events at one time enter the partial likelihood
(methods.md, section 4: Proportional hazards regression)."""

from typing import Protocol

import numpy as np

from hourglass.core.arrays import FloatArray, IntArray


class TieMethod(Protocol):
    """The share of the tied events' scores that each of a time's d factors leaves out."""

    @property
    def key(self) -> str:
        """What it is called in a statement."""
        ...

    def share(self, place: IntArray, events: IntArray) -> FloatArray:
        """(D,) the share left out by factor l = 0 … d − 1 (``place``) of a time with d ``events``."""
        ...


class Efron:
    """l/d (Efron 1977)."""

    key = "Efron"

    def share(self, place: IntArray, events: IntArray) -> FloatArray:
        return np.asarray(place / events)


class Breslow:
    """0: every factor takes the whole risk set (Breslow 1974)."""

    key = "Breslow"

    def share(self, place: IntArray, events: IntArray) -> FloatArray:
        return np.zeros(place.size)


EFRON = Efron()
TIE_METHODS: tuple[TieMethod, ...] = (EFRON, Breslow())

"""How events at one time enter the partial likelihood
(methods.md, section 4: Proportional hazards regression)."""

from typing import Protocol

import numpy as np

from hourglass.core.arrays import FloatArray
from hourglass.core.factors import Factors, efron_factors, whole_factors


class TieMethod(Protocol):
    """The factors φ_l = Σ_R r − f_l Σ_D r, l = 0 … d − 1, of a time with d events."""

    @property
    def key(self) -> str:
        """What it is called in a statement."""
        ...

    def factors(self, events: FloatArray) -> Factors:
        """The shares f_l that the factors of each time with ``events`` (K,) leave out."""
        ...


class Efron:
    """f_l = l/d (Efron 1977)."""

    key = "Efron"

    def factors(self, events: FloatArray) -> Factors:
        return efron_factors(events)


class Breslow:
    """0: every factor takes the whole risk set (Breslow 1974)."""

    key = "Breslow"

    def factors(self, events: FloatArray) -> Factors:
        return whole_factors(events)


class Exact:
    """The chance of these d rows among all sets of d at risk (Cox 1972): one factor for them all.

    Times with one event have one factor; the sums over sets of several events are taken elsewhere.
    """

    key = "exact"

    def factors(self, events: FloatArray) -> Factors:
        return whole_factors(np.where(events == 1, 1.0, 0.0))


EFRON, BRESLOW, EXACT = Efron(), Breslow(), Exact()
TIE_METHODS: tuple[TieMethod, ...] = (EFRON, BRESLOW, EXACT)

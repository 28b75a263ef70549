"""What each event time counts for in a test of groups (methods.md, section 3: Comparing groups)."""

from typing import Protocol

import numpy as np

from hourglass.core.arrays import FloatArray
from hourglass.core.risk_table import RiskTable


class Weight(Protocol):
    """A weight of the event times."""

    @property
    def key(self) -> str:
        """What it is called in a statement."""
        ...

    def over(self, pooled: RiskTable) -> FloatArray:
        """(K,) W at the event times of all groups together."""
        ...


class Equal:
    """1: all event times alike (Mantel 1966)."""

    key = "equal"

    def over(self, pooled: RiskTable) -> FloatArray:
        return np.ones(pooled.time.size)


class RootAtRisk:
    """√n: early event times weigh more, less so than by n itself (Tarone & Ware 1977)."""

    key = "root at risk"

    def over(self, pooled: RiskTable) -> FloatArray:
        return np.sqrt(pooled.at_risk.astype(np.float64))


EQUAL = Equal()
WEIGHTS: tuple[Weight, ...] = (EQUAL, RootAtRisk())

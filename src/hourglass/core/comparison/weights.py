"""What each event time counts for in a test of groups (methods.md, section 3: Comparing groups)."""

from dataclasses import dataclass
from typing import Protocol

import numpy as np

from hourglass.core.arrays import FloatArray


class Weight(Protocol):
    """A weight of the event times."""

    @property
    def key(self) -> str:
        """What it is called in a statement."""
        ...

    def over(self, at_risk: FloatArray, events: FloatArray) -> FloatArray:
        """(K,) W at the event times of a stratum, from n_j and d_j of all groups together."""
        ...


class Equal:
    """1: all event times alike (Mantel 1966)."""

    key = "log-rank"

    def over(self, at_risk: FloatArray, events: FloatArray) -> FloatArray:
        return np.ones(at_risk.size)


class AtRisk:
    """n: early event times weigh more, also where many were censored (Gehan 1965, Breslow 1970)."""

    key = "Gehan–Breslow"

    def over(self, at_risk: FloatArray, events: FloatArray) -> FloatArray:
        return at_risk


class RootAtRisk:
    """√n: early event times weigh more, less so than by n itself (Tarone & Ware 1977)."""

    key = "Tarone–Ware"

    def over(self, at_risk: FloatArray, events: FloatArray) -> FloatArray:
        return np.sqrt(at_risk)


class ProductSurvival:
    """Π (1 − d/(n + 1)): an estimate of survival that censoring does not move (Peto & Peto 1972, as
    Prentice 1978 has it)."""

    key = "Peto–Peto"

    def over(self, at_risk: FloatArray, events: FloatArray) -> FloatArray:
        return np.cumprod((at_risk + 1 - events) / (at_risk + 1), dtype=np.float64)


class ModifiedSurvival:
    """The same times n/(n + 1) (Andersen et al. 1982)."""

    key = "modified Peto–Peto"

    def over(self, at_risk: FloatArray, events: FloatArray) -> FloatArray:
        return ProductSurvival().over(at_risk, events) * at_risk / (at_risk + 1)


@dataclass(frozen=True, slots=True)
class EarlyLate:
    """S(t−)^ρ (1 − S(t−))^γ with the curve of all groups just before t (Fleming & Harrington 1991)."""

    rho: float
    gamma: float

    @property
    def key(self) -> str:
        """Named by its powers."""
        return f"Fleming–Harrington {self.rho:g}, {self.gamma:g}"

    def over(self, at_risk: FloatArray, events: FloatArray) -> FloatArray:
        left = (at_risk - events) / at_risk
        # 1 − S(t−) from what each time takes away, so that it keeps its digits while S is near 1.
        before = np.concatenate([[1.0], np.cumprod(left)])[: left.size]
        taken = np.cumsum(before * events / at_risk)
        gone = np.concatenate([[0.0], taken])[: left.size]
        return np.asarray(before**self.rho * np.clip(gone, 0.0, 1.0) ** self.gamma)


EQUAL, AT_RISK, ROOT_AT_RISK = Equal(), AtRisk(), RootAtRisk()
PRODUCT_SURVIVAL, MODIFIED_SURVIVAL = ProductSurvival(), ModifiedSurvival()
EARLY, LATE, MIDDLE = EarlyLate(1, 0), EarlyLate(0, 1), EarlyLate(1, 1)
WEIGHTS: tuple[Weight, ...] = (
    EQUAL,
    AT_RISK,
    ROOT_AT_RISK,
    PRODUCT_SURVIVAL,
    MODIFIED_SURVIVAL,
    EARLY,
    LATE,
    MIDDLE,
)

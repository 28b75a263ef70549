"""A verdict in shape and words: holds, in doubt, fails."""

from collections.abc import Sequence
from typing import Literal

import numpy as np

from hourglass.core.smooth import Smooth

Verdict = Literal["holds", "in doubt", "fails", "unknown"]
IN_DOUBT = 0.05
FAILS = 0.01


def verdict(p: float | None) -> Verdict:
    """● holds (no sign against it), ◐ in doubt below 0.05, ○ fails below 0.01."""
    if p is None:
        return "unknown"
    if p >= IN_DOUBT:
        return "holds"
    return "in doubt" if p >= FAILS else "fails"


def failed_or_doubted(found: Sequence[Verdict]) -> str:
    """How many fail and how many are in doubt: "1 fails, 2 in doubt"."""
    fail, doubted = found.count("fails"), found.count("in doubt")
    parts = [f"{fail} {'fails' if fail == 1 else 'fail'}"] if fail else []
    return ", ".join([*parts, *([f"{doubted} in doubt"] if doubted else [])])


def doubtful(found: Verdict) -> bool:
    """Whether a verdict speaks against what was assumed."""
    return found in ("in doubt", "fails")


def course(smooth: Smooth | None) -> str:
    """How a ratio moves from the first to the last quarter of the events: fades, grows, reverses."""
    if smooth is None or smooth.y.size < 4:
        return ""
    early, late = smooth.y[smooth.y.size // 8], smooth.y[-1 - smooth.y.size // 8]
    if early * late < 0:
        return "reverses"
    return "fades" if abs(late) < abs(early) else "grows"


def weakest(p_values: list[float | None]) -> float | None:
    """The smallest of the p-values that there are."""
    known = [p for p in p_values if p is not None]
    return float(np.min(known)) if known else None

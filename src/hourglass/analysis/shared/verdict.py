"""A verdict in shape and words: holds, in doubt, fails."""

from dataclasses import dataclass
from typing import Literal

import numpy as np

from hourglass.analysis.design import Design
from hourglass.core.comparison import Test
from hourglass.core.regression.proportionality import ProportionalityTest
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


@dataclass(frozen=True, slots=True)
class TermVerdict:
    """Whether a term's ratio stays the same over time: its test, and what it comes to."""

    label: str
    test: Test
    verdict: Verdict


def term_verdicts(coded: Design, tested: ProportionalityTest) -> tuple[TermVerdict, ...]:
    """The one verdict on each term, for Model's words and Check's mark alike."""
    tests = [tested.of(coded.of_term(k)) for k in range(len(coded.terms))]
    return tuple(
        TermVerdict(label, test, verdict(test.p))
        for label, test in zip(coded.terms, tests, strict=True)
    )


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

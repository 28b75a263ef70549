"""The statement of Estimate."""

import math
from typing import Literal

from hourglass.analysis.shared.statement import Confidence, StageStatement, Times, renamed
from hourglass.cohort.followup import Cohort
from hourglass.cohort.statement import Unit

ROUND = (1, 2, 5, 10, 20, 50, 100, 200, 500, 1000, 2000, 5000, 10000, 20000, 50000, 100000)
STEPS: dict[Unit, tuple[float, ...]] = {
    "hours": (1, 6, 12, 24, 100, 200, 250, 500, 1000, 5000, 10000),
    "days": (1, 7, 30, 90, 180, 365),
    "weeks": (1, 4, 13, 26, 52),
    "months": (1, 3, 6, 12, 24, 60),
    "years": (0.25, 0.5, 1, 2, 5, 10),
}


class EstimateStatement(StageStatement):
    """Survival of everyone; ``confidence`` is the level of its intervals."""

    upgrades = (renamed(2, level="confidence"),)
    stage: Literal["estimate"] = "estimate"
    version: Literal[2] = 2
    confidence: Confidence = 0.95
    times: Times = ()


def first_estimate(cohort: Cohort) -> EstimateStatement:
    """Survival of everyone, read at three or four round times within the follow-up."""
    last = cohort.follow_up.end
    steps = STEPS.get(cohort.statement.unit, ROUND)
    step = next((s for s in steps if last / s <= 6), None)
    if step is None:
        step = 10.0 ** math.floor(math.log10(last))
    if last < steps[0]:
        step = last / 4
    return EstimateStatement(times=tuple(step * k for k in range(1, 7) if step * k <= last)[:4])

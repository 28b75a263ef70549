"""The statement of Estimate."""

import math
from collections.abc import Mapping
from dataclasses import replace
from typing import Annotated, Literal, Self

from pydantic import Field

from hourglass.analysis.shared.curve_form import CurveForm, CurveFormStatement
from hourglass.analysis.shared.grouping import GroupedStatement
from hourglass.analysis.shared.statement import Times, renamed, with_keys_of_the_field
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
Positive = Annotated[float, Field(gt=0, allow_inf_nan=False)]


class EstimateStatement(CurveFormStatement, GroupedStatement):
    """Survival of everyone, or of each group.

    Attributes:
        times: at which it is read; ``limit``: up to where a mean is restricted.
        start: curves are those of subjects free of the event then; None from the beginning.
        bandwidth: of the smoothed hazard; None for a sixth of the follow-up.
        ignoring: whether what ignoring censoring would have given stands beside.
    """

    upgrades = (renamed(2, level="confidence"), renamed(3), with_keys_of_the_field(4))
    stage: Literal["estimate"] = "estimate"
    version: Literal[4] = 4
    times: Times = ()
    limit: Positive | None = None
    start: Positive | None = None
    bandwidth: Positive | None = None
    ignoring: bool = False

    def references(self) -> Mapping[str, str]:
        return {self.by: self.reference} if self.by and self.reference else {}

    def levels(self) -> tuple[tuple[str, str], ...]:
        return () if self.crossed is not None or self.thresholds else super().levels()

    def without_references(self) -> Self:
        return self.model_copy(update={"reference": None})

    @property
    def is_everyone(self) -> bool:
        """Whether the one curve that is requested is that of everyone from the beginning."""
        return self.by is None and self.start is None

    @property
    def form(self) -> CurveForm:
        """How its curves are estimated."""
        return replace(self.study_form, start=self.start)


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

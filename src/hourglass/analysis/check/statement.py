"""The statement of Check."""

from typing import Literal

from hourglass.analysis.shared.statement import StageStatement, one_of, renamed
from hourglass.core.regression.time_functions import ONE_MINUS_SURVIVAL, TIME_FUNCTIONS


class CheckStatement(StageStatement):
    """Whether each ratio of the model stays the same over time, along a function of time."""

    upgrades = (renamed(2, clock="time_function"),)
    stage: Literal["check"] = "check"
    version: Literal[2] = 2
    time_function: one_of(g.key for g in TIME_FUNCTIONS) = ONE_MINUS_SURVIVAL.key  # type: ignore[valid-type]

"""The statement of Check."""

from typing import Annotated, Literal

from pydantic import Field

from hourglass.analysis.catalogue.time_functions import TIME_FUNCTIONS
from hourglass.analysis.check.weighed import PROPORTIONAL_HAZARDS, WEIGHED
from hourglass.analysis.shared.statement import (
    StageStatement,
    one_of,
    renamed,
    with_keys_of_the_field,
)
from hourglass.core.regression.time_functions import ONE_MINUS_SURVIVAL

RESIDUAL_KEYS = ("deviance", "martingale", "Cox–Snell", "predicted survival")


class CheckStatement(StageStatement):
    """A question put to the model.

    Attributes:
        question: which of them is shown; all have a verdict.
        time_function: along which ratios may change.
        variable: the number whose scale is looked at; the first of the model where it is blank.
        residual: which residual is drawn where rows are looked for, and ``against`` which number: the linear
            predictor where it is blank.
        together: the column whose rows are left out together; each subject where it is blank.
        time: at which predictions are compared with what was seen; the median follow-up where None.
    """

    upgrades = (renamed(2, clock="time_function"), renamed(3), with_keys_of_the_field(4))
    stage: Literal["check"] = "check"
    version: Literal[4] = 4
    question: one_of(WEIGHED) = PROPORTIONAL_HAZARDS  # type: ignore[valid-type]
    time_function: one_of(TIME_FUNCTIONS) = ONE_MINUS_SURVIVAL.key  # type: ignore[valid-type]
    variable: str = ""
    residual: one_of(RESIDUAL_KEYS) = "deviance"  # type: ignore[valid-type]
    against: str = ""
    together: str = ""
    time: Annotated[float | None, Field(gt=0, allow_inf_nan=False)] = None

    def columns(self) -> tuple[str, ...]:
        return tuple(name for name in (self.variable, self.against, self.together) if name)

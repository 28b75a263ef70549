"""The workings of Estimate: survival at a time, and the median."""

from collections.abc import Mapping
from typing import Annotated, cast

from pydantic import Field

from hourglass.analysis.estimate.statement import EstimateStatement
from hourglass.analysis.shared.curve_workings import median_workings, survival_workings
from hourglass.analysis.shared.curves import Curve, curve_of
from hourglass.analysis.shared.statement import StageStatement
from hourglass.analysis.shared.typed import Typed
from hourglass.analysis.shared.workings import Nothing, WorkedFigure, Workings
from hourglass.cohort.followup import Cohort

Statements = Mapping[str, StageStatement]


class AtTime(Typed):
    """Survival at time ``t``."""

    t: Annotated[float, Field(ge=0, allow_inf_nan=False)]


def _curve(cohort: Cohort, asked: Statements) -> Curve:
    statement = cast(EstimateStatement, asked["estimate"])
    return curve_of(cohort.follow_up, statement.confidence, "everyone", -1)


def _survival(cohort: Cohort, asked: Statements, about: AtTime) -> Workings:
    told = cohort.statement
    return survival_workings(_curve(cohort, asked), about.t, told.unit, told.event_name)


def _median(cohort: Cohort, asked: Statements, about: Nothing) -> Workings:
    return median_workings(_curve(cohort, asked), cohort.statement.unit, cohort.decimals)


WORKINGS = (WorkedFigure("survival", AtTime, _survival), WorkedFigure("median", Nothing, _median))

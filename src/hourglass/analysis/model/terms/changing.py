"""How a term's ratio may change over time (methods.md, section 4: Proportional hazards regression)."""

from typing import Annotated, Literal, TypeAlias

from pydantic import Field

from hourglass.analysis.catalogue.time_functions import TIME_FUNCTIONS
from hourglass.analysis.shared import naming
from hourglass.analysis.shared.frozen_model import FrozenModel
from hourglass.analysis.shared.statement import one_of
from hourglass.core.regression.effects import AlongTime, ByPeriod, Effect


class Periods(FrozenModel):
    """A ratio of its own in each period: up to the first of ``ends``, …, after the last."""

    kind: Literal["periods"] = "periods"
    ends: Annotated[
        tuple[Annotated[float, Field(gt=0, allow_inf_nan=False)], ...], Field(min_length=1)
    ]

    @property
    def label(self) -> str:
        return f"changing at {naming.listed([naming.plain(t) for t in sorted(set(self.ends))])}"

    @property
    def effect(self) -> Effect:
        """The same to the core."""
        return ByPeriod(tuple(sorted(set(self.ends))))


class AlongFunction(FrozenModel):
    """A ratio that moves along a function of time."""

    kind: Literal["along"] = "along"
    function: one_of(TIME_FUNCTIONS)  # type: ignore[valid-type]

    @property
    def along(self) -> str:
        """What it moves along, in the name of a term."""
        return TIME_FUNCTIONS[self.function].along

    @property
    def label(self) -> str:
        return f"changing along {self.along}"

    @property
    def effect(self) -> Effect:
        """The same to the core."""
        return AlongTime(TIME_FUNCTIONS[self.function].method)


Changing: TypeAlias = Annotated[Periods | AlongFunction, Field(discriminator="kind")]

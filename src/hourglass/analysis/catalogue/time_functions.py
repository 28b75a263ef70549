"""The functions of time along which a coefficient may move (methods.md, section 6: Residuals and checks)."""

from dataclasses import dataclass

from hourglass.analysis.catalogue.entry import MethodEntry, catalogue
from hourglass.core.regression import time_functions as core


@dataclass(frozen=True, slots=True, kw_only=True)
class TimeFunctionEntry(MethodEntry):
    """A function of time; ``along`` is what a ratio changes along, in the name of a term."""

    method: core.TimeFunction
    along: str


TIME_FUNCTIONS = catalogue(
    TimeFunctionEntry(
        method=core.ONE_MINUS_SURVIVAL,
        name="1 − survival",
        note="events count alike, wherever they fall",
        along="1 − survival",
    ),
    TimeFunctionEntry(
        method=core.TIME_ITSELF, name="time itself", note="late events weigh more", along="time"
    ),
    TimeFunctionEntry(
        method=core.LOG_TIME,
        name="the logarithm of time",
        note="early events weigh more",
        along="ln time",
    ),
    TimeFunctionEntry(
        method=core.EVENT_RANK,
        name="the order of event times",
        note="event times count alike",
        along="the order of event times",
    ),
    methods=core.TIME_FUNCTIONS,
)

"""The functions of time g(t) along which a coefficient may move
(methods.md, section 6: Residuals and checks)."""

from typing import Protocol

import numpy as np

from hourglass.core.arrays import FloatArray
from hourglass.core.curves.survival import survival_curve
from hourglass.core.errors import NotEstimableError
from hourglass.core.followup import FollowUp
from hourglass.core.risk_table import risk_table


class TimeFunction(Protocol):
    """A function of time, known at the event times."""

    @property
    def key(self) -> str:
        """What it is called in a statement."""
        ...

    def at(self, data: FollowUp, time: FloatArray) -> FloatArray:
        """(K,) g at the distinct event times.

        Raises:
            NotEstimableError: when it is not defined at one of them.
        """
        ...


class OneMinusSurvival:
    """1 − S(t−) of the pooled curve: events count alike, wherever they fall."""

    key = "one minus survival"

    def at(self, data: FollowUp, time: FloatArray) -> FloatArray:
        survival = survival_curve(risk_table(data)).survival
        return 1 - np.concatenate([[1.0], survival[:-1]])


class TimeItself:
    """t: late events weigh more."""

    key = "time"

    def at(self, data: FollowUp, time: FloatArray) -> FloatArray:
        return time


class LogTime:
    """ln t: early events weigh more."""

    key = "log time"

    def at(self, data: FollowUp, time: FloatArray) -> FloatArray:
        if time[0] <= 0:
            raise NotEstimableError(
                "an event at time 0 has no logarithm: choose another function of time"
            )
        return np.log(time)


class EventRank:
    """The rank among the distinct event times: event times count alike."""

    key = "rank"

    def at(self, data: FollowUp, time: FloatArray) -> FloatArray:
        return np.arange(1.0, time.size + 1)


ONE_MINUS_SURVIVAL, TIME_ITSELF = OneMinusSurvival(), TimeItself()
LOG_TIME, EVENT_RANK = LogTime(), EventRank()
TIME_FUNCTIONS: tuple[TimeFunction, ...] = (ONE_MINUS_SURVIVAL, TIME_ITSELF, LOG_TIME, EVENT_RANK)

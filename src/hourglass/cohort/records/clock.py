"""Times of records from each subject's own origin
(methods.md, section 11: Several tables; time-varying covariates, "Times")."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hourglass.cohort.statement import DAYS_IN, Unit
from hourglass.cohort.table import DAY, MICRO, DateColumn, NumberColumn

DAY_MICROS = float(DAY * MICRO)


@dataclass(frozen=True, slots=True)
class RecordClock:
    """How times of a further table are counted: in whole units, divided once.

    Attributes:
        scale: how many whole units the study's unit has: microseconds of dates, 1 of numbers.
        dated: whether lengths are days; else they are in the study's unit.
        whole_days: whether only days are known, so that lengths are whole days.
        shift: the study's time that is 0 after a landmark.
    """

    scale: float
    dated: bool
    whole_days: bool
    shift: float

    def length(self, given: float) -> float:
        """A length in whole units: of days the whole microseconds, rounded to seconds."""
        return float(np.rint(given * DAY)) * MICRO if self.dated else given

    def times(self, units: NDArray[np.float64]) -> NDArray[np.float64]:
        """Times of the study, of whole units divided once."""
        found = units / self.scale
        return found - self.shift if self.shift else found


def clock_of(
    column: DateColumn | NumberColumn, start: DateColumn | None, unit: Unit, landmark: float | None
) -> RecordClock:
    """The clock of a column of dates or times.

    Args:
        start: the origins of follow-up, where it is worked out from dates.
    """
    shift = landmark or 0.0
    if isinstance(column, NumberColumn) or start is None:
        return RecordClock(1.0, dated=False, whole_days=False, shift=shift)
    days = by_day(column) or by_day(start)
    return RecordClock(DAYS_IN[unit] * DAY_MICROS, dated=True, whole_days=days, shift=shift)


def by_day(column: DateColumn) -> bool:
    """Whether dates have no clock time."""
    return bool(column.values.dtype == np.dtype("datetime64[D]"))


def since_origin(
    column: DateColumn | NumberColumn, origin: DateColumn | None, subject: NDArray[np.int64]
) -> NDArray[np.float64]:
    """(m,) whole units from the origin of each row's subject; NaN where one is missing.

    Args:
        origin: (s,) those of the subjects, where follow-up is worked out from dates.
        subject: (m,) the place of the subject of each row; −1 for nobody's.
    """
    if isinstance(column, NumberColumn) or origin is None:
        assert isinstance(column, NumberColumn)
        return np.where(subject < 0, np.nan, column.values)
    date, began = column.microseconds, np.append(origin.microseconds, np.nan)[subject]
    if by_day(column) or by_day(origin):
        date, began = (np.floor(part / DAY_MICROS) * DAY_MICROS for part in (date, began))
    return np.asarray(date - began)

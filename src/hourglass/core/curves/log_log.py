"""Whether groups are proportional, by eye (methods.md, section 6: Residuals and checks)."""

from dataclasses import dataclass

import numpy as np

from hourglass.core.arrays import FloatArray
from hourglass.core.curves.survival import SurvivalCurve


@dataclass(frozen=True, slots=True)
class LogLogLine:
    """ln(−ln S) at (m,) event times.

    Against ln t the lines of groups are parallel under proportional hazards.
    """

    time: FloatArray
    height: FloatArray


def log_log_line(curve: SurvivalCurve) -> LogLogLine:
    """The line of one group, over event times above 0 up to the last with S > 0."""
    shown = (curve.table.time > 0) & (curve.survival > 0)
    return LogLogLine(curve.table.time[shown], np.log(-np.log(curve.survival[shown])))

"""The cuts of a numeric variable that leave enough on both sides
(methods.md, section 3: Comparing groups)."""

from dataclasses import dataclass

import numpy as np

from hourglass.core.arrays import BoolArray, FloatArray, IntArray

MIN_EVENTS = 5
LEAST_SHARE = 10
"""One in so many subjects must lie on each side of a cut."""


@dataclass(frozen=True, slots=True)
class Cuts:
    """The cuts between m subjects in order of a variable; equal values are never parted.

    Attributes:
        order: (m,) the subjects by their value.
        ends: (c,) the place in that order of the last subject up to each cut that leaves a tenth of
            all copies on either side.
    """

    order: IntArray
    ends: IntArray

    def enough_events(self, events: FloatArray) -> BoolArray:
        """(c,) True for cuts with 5 events on both sides, ``events`` (m,) those of each subject in order."""
        running = np.cumsum(events)
        left = running[self.ends]
        return np.asarray((left >= MIN_EVENTS) & (running[-1] - left >= MIN_EVENTS))


def cuts_of(value: FloatArray, copies: IntArray) -> Cuts:
    """The cuts between the values (m,) of subjects with so many ``copies`` (m,)."""
    order = np.argsort(value, kind="stable")
    ordered = value[order]
    ends = np.flatnonzero(ordered[1:] != ordered[:-1])
    running = np.cumsum(copies[order])
    left, everyone = running[ends], running[-1]
    enough = (LEAST_SHARE * left >= everyone) & (LEAST_SHARE * (everyone - left) >= everyone)
    return Cuts(order, ends[enough])

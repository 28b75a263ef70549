"""Numbers at risk and events of each group (methods.md, section 3: Comparing groups)."""

from dataclasses import dataclass

import numpy as np

from hourglass.core.arrays import IntArray
from hourglass.core.errors import Refusal, RefusedRowsError
from hourglass.core.event_pairs import EventPairs, event_pairs
from hourglass.core.followup import FollowUp


@dataclass(frozen=True, slots=True)
class GroupTable:
    """Numbers at risk and events of each of G groups, one row for each of K pairs.

    Attributes:
        pairs: the pairs of a stratum and an event time.
        at_risk, events: (K, G), each group's numbers side by side in memory.
        all_at_risk, all_events: (K,) of all groups together.
    """

    pairs: EventPairs
    at_risk: IntArray
    events: IntArray
    all_at_risk: IntArray
    all_events: IntArray


def group_table(
    data: FollowUp, group: IntArray, groups: int, stratum: IntArray | None = None
) -> GroupTable:
    """Count groups coded 0 … groups − 1 in ``group`` (n,), within strata (n,); O(n log n + K G).

    Raises:
        RefusedRowsError: naming the rows with a group code out of range.
    """
    refuse_codes_out_of_range(group, groups)
    pairs = event_pairs(data, stratum)
    whose, late = group[pairs.order], group[pairs.late]
    number = np.empty((groups, pairs.time.size), dtype=np.int64)
    events = np.empty_like(number)
    several = data.size > data.exit.size
    if several:
        count, late_count = data.count[pairs.order], data.count[pairs.late]
    for g in range(groups):
        own, of_late = whose == g, late == g
        if several:
            own, of_late = count * own, late_count * of_late
        number[g] = pairs.at_risk(own, of_late)
        events[g] = pairs.at_events(own)
    return GroupTable(pairs, number.T, events.T, number.sum(axis=0), events.sum(axis=0))


def refuse_codes_out_of_range(group: IntArray, groups: int) -> None:
    """Refuse rows whose group is none of 0 … groups − 1.

    Raises:
        RefusedRowsError: naming the rows.
    """
    strange = (group < 0) | (group >= groups)
    if strange.any():
        raise RefusedRowsError((Refusal("the group has no place", np.flatnonzero(strange)),))

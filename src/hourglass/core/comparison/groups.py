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
    whose, count = group[pairs.order], data.count[pairs.order]
    happened = pairs.happened
    events = pairs.sums(pairs.last[happened], whose[happened], count[happened], groups)
    if not pairs.time.size:
        return GroupTable(pairs, events.T, events.T, events[0], events[0])

    def at_risk(last: IntArray, rows: IntArray, of: IntArray, copies: IntArray) -> IntArray:
        there = pairs.inside(last, None if stratum is None else stratum[rows])
        if not there.all():
            last, of, copies = last[there], of[there], copies[there]
        return pairs.at_risk(last, of, copies, groups)

    number = at_risk(pairs.last, pairs.order, whose, count)
    if pairs.late.size:
        late = pairs.late
        number -= at_risk(pairs.entered, late, group[late], data.count[late])
    return GroupTable(pairs, number.T, events.T, number.sum(axis=0), events.sum(axis=0))


def refuse_codes_out_of_range(group: IntArray, groups: int) -> None:
    """Refuse rows whose group is none of 0 … groups − 1.

    Raises:
        RefusedRowsError: naming the rows.
    """
    strange = (group < 0) | (group >= groups)
    if strange.any():
        raise RefusedRowsError((Refusal("the group has no place", np.flatnonzero(strange)),))

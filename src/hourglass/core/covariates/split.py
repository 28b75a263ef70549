"""Rows of follow-up parted where a time-varying covariate changes
(methods.md, section 11: Several tables; time-varying covariates, "Splitting")."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from hourglass.core.arrays import FloatArray, IntArray
from hourglass.core.covariates.course import Course, places
from hourglass.core.followup import FollowUp
from hourglass.core.ranges import members
from hourglass.core.regression.splitting import refuse_too_many


@dataclass(frozen=True, slots=True)
class SplitRows:
    """Pieces of rows, each constant in all covariates, as few as that needs.

    Attributes:
        data: follow-up of the (p,) pieces; those of a subject belong to it.
        row: (p,) the row of each.
        values: for each covariate (p,) its value in each piece.
    """

    data: FollowUp
    row: IntArray
    values: tuple[FloatArray, ...]


def split_where_changed(data: FollowUp, subject: IntArray, courses: Sequence[Course]) -> SplitRows:
    """Part every row at the times c, max(entry, 0) < c < exit, just after which a covariate differs.

    Args:
        subject: (n,) the place of the subject of each row, as the courses count them.

    Raises:
        NotEstimableError: when that would make too many pieces.
    """
    entry = np.full(data.exit.size, -np.inf) if data.entry is None else data.entry
    whose = np.concatenate([np.empty(0, dtype=np.int64), *(c.subject for c in courses)])
    after = np.concatenate([np.empty(0), *(c.after for c in courses)])
    order = np.lexsort((after, whose))
    whose, after = whose[order], after[order]
    new = np.ones(order.size, dtype=bool)
    new[1:] = (whose[1:] != whose[:-1]) | (after[1:] != after[:-1])
    whose, after = whose[new], after[new]
    low = places(whose, after, subject, np.maximum(entry, 0.0), with_equal=True)
    high = places(whose, after, subject, data.exit, with_equal=False)
    pieces = np.maximum(high - low, 0) + 1
    refuse_too_many(int(pieces.sum()))
    row, nth = members(np.zeros_like(pieces), pieces)
    ends = nth == pieces[row] - 1
    cut = np.append(after, np.nan)
    stop = np.where(ends, data.exit[row], cut[np.minimum(low[row] + nth, after.size)])
    start = np.where(nth == 0, entry[row], cut[low[row] + nth - 1])
    parted = data.parted(row, start, stop, np.where(ends, data.status[row], 0), subject[row], ends)
    values = tuple(course.at(subject[row], stop) for course in courses)
    return SplitRows(parted, row, values)

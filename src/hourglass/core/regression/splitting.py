"""Rows parted in time (methods.md, section 1: Data)."""

from dataclasses import dataclass

import numpy as np

from hourglass.core.arrays import FloatArray, IntArray
from hourglass.core.errors import NotEstimableError
from hourglass.core.followup import FollowUp
from hourglass.core.ranges import members
from hourglass.core.subjects import copies_of_subjects

MAX_PIECES = 20_000_000
"""So many pieces of rows are made, and no more."""


@dataclass(frozen=True, slots=True)
class Pieces:
    """Rows parted at cuts.

    Attributes:
        data: follow-up of the (m,) pieces, those of a row one subject's.
        row: (m,) the data row of each.
    """

    data: FollowUp
    row: IntArray


def refuse_too_many(pieces: int) -> None:
    """Refuse to make more pieces of rows than there may be.

    Raises:
        NotEstimableError
    """
    if pieces > MAX_PIECES:
        raise NotEstimableError(
            f"the rows would part into {pieces} pieces, more than the {MAX_PIECES} there may be"
        )


def split(data: FollowUp, cuts: FloatArray) -> Pieces:
    """Part every row at the cuts that lie within it: (…, τ_1], (τ_1, τ_2], …, (τ_m, …).

    Args:
        cuts: (m,) times, ascending.

    Raises:
        NotEstimableError: when that would make too many pieces.
    """
    entry = np.full(data.exit.size, -np.inf) if data.entry is None else data.entry
    first = np.searchsorted(cuts, entry, side="right")
    last = np.searchsorted(cuts, data.exit, side="left")
    # Whoever has no delayed entry is at risk at 0: a cut there parts that moment from what follows.
    first = np.maximum(first, np.where(np.isfinite(entry), 0, np.searchsorted(cuts, 0.0, "left")))
    pieces = np.maximum(last - first, 0) + 1
    refuse_too_many(int(pieces.sum()))
    row, nth = members(np.zeros_like(pieces), pieces)
    ends = nth == pieces[row] - 1
    cut = np.minimum(first[row] + nth, max(cuts.size - 1, 0))
    at = cuts if cuts.size else np.zeros(1)
    exit = np.where(ends, data.exit[row], at[cut])
    begins = np.where(nth == 0, entry[row], at[np.maximum(cut - 1, 0)])
    begins[ends & (nth > 0)] = at[last[row][ends & (nth > 0)] - 1]
    status = np.where(ends, data.status[row], 0)
    subject, _ = copies_of_subjects(data)
    return Pieces(data.parted(row, begins, exit, status, subject[row], ends), row)

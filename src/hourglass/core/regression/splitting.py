"""Effects that change over time, by rows parted in time
(methods.md, section 4: Proportional hazards regression, "Changing effects")."""

from dataclasses import dataclass

import numpy as np

from hourglass.core.arrays import FloatArray, IntArray
from hourglass.core.errors import NotEstimableError
from hourglass.core.followup import FollowUp
from hourglass.core.people import copies_of_subjects
from hourglass.core.regression.time_functions import TimeFunction

MOST_PIECES = 20_000_000
"""So many pieces of rows are made, and no more."""


@dataclass(frozen=True, slots=True)
class Pieces:
    """Rows parted at cuts: follow-up of the (m,) pieces, each one's data row and period.

    Attributes:
        data: the pieces, those of a row one subject's.
        row: (m,) the data row; ``period``: (m,) how many cuts lie before a piece's end.
    """

    data: FollowUp
    row: IntArray
    period: IntArray


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
    # A cut at 0 or before parts nothing: whoever has no late entry is at risk at 0 too.
    first = np.maximum(first, np.where(np.isfinite(entry), 0, np.searchsorted(cuts, 0.0, "right")))
    pieces = np.maximum(last - first, 0) + 1
    if pieces.sum() > MOST_PIECES:
        raise NotEstimableError(
            f"the rows would part into {int(pieces.sum())} pieces, more than the {MOST_PIECES} there may be"
        )
    row = np.repeat(np.arange(data.exit.size), pieces)
    nth = np.arange(row.size) - np.repeat(np.cumsum(pieces) - pieces, pieces)
    ends = nth == pieces[row] - 1
    cut = np.minimum(first[row] + nth, max(cuts.size - 1, 0))
    at = cuts if cuts.size else np.zeros(1)
    exit = np.where(ends, data.exit[row], at[cut])
    begins = np.where(nth == 0, entry[row], at[np.maximum(cut - 1, 0)])
    begins[ends & (nth > 0)] = at[last[row][ends & (nth > 0)] - 1]
    status = np.where(ends, data.status[row], 0)
    subject, _ = copies_of_subjects(data)
    return Pieces(
        data.parted(row, begins, exit, status, subject[row], ends),
        row,
        np.searchsorted(cuts, exit, side="left"),
    )


def by_period(x: FloatArray, pieces: Pieces, periods: int) -> FloatArray:
    """(m, p · periods) for each column of ``x`` (n, p), one a period: x within it, 0 outside."""
    inside = (pieces.period[:, None] == np.arange(periods)).astype(np.float64)
    parted = x[pieces.row][:, :, None] * inside[:, None, :]
    return np.asarray(parted.reshape(pieces.row.size, -1))


def event_times(data: FollowUp) -> FloatArray:
    """(K,) the distinct event times of all strata: split there, each risk set has values of its own."""
    return np.asarray(np.unique(data.exit[data.event()]), dtype=np.float64)


def along_time(x: FloatArray, pieces: Pieces, data: FollowUp, function: TimeFunction) -> FloatArray:
    """(m, p) x (g(t) − g₀) of rows split at all event times, g₀ the mean of g over the events, copies too.

    Raises:
        NotEstimableError: when the function is not defined at an event.
    """
    times = event_times(data)
    g = function.at(data, times)
    happened = data.event()
    place = np.searchsorted(times, data.exit[happened])
    centre = np.average(g[place], weights=data.count[happened])
    # A piece that ends at no event is in no risk set: its value tells nothing.
    at = np.minimum(np.searchsorted(times, pieces.data.exit), times.size - 1)
    return x[pieces.row] * (g[at] - centre)[:, None]

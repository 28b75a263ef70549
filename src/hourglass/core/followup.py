"""Follow-up data: who was watched from when to when, and how it ended (methods.md, section 1)."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike

from hourglass.core.arrays import BoolArray, FloatArray, IntArray

NEAR_TIE = 1e-9
"""Neighbouring times closer than this share of the largest absolute time are one time."""


@dataclass(frozen=True, slots=True)
class Refusal:
    """Why some rows cannot be followed. ``rows`` are positions, counted from 0."""

    reason: str
    rows: IntArray


class RefusedRowsError(ValueError):
    """Rows that have no place in the analysis until somebody decides about them."""

    def __init__(self, refusals: tuple[Refusal, ...]) -> None:
        self.refusals = refusals
        super().__init__("; ".join(f"{r.rows.size} rows: {r.reason}" for r in refusals))


@dataclass(frozen=True, slots=True)
class FollowUp:
    """Validated follow-up of n rows. Build it with :func:`follow_up`.

    Attributes:
        exit: (n,) exit times, in the study's unit.
        status: (n,) 0 censored, 1 the event, 2, 3, … competing events.
        entry: (n,) entry times, −inf where the row has no late entry; None when no row has one.
        count: (n,) whole number of identical rows that each row stands for.
        merged: how many distinct times were merged into a smaller near-tie.
    """

    exit: FloatArray
    status: IntArray
    entry: FloatArray | None
    count: IntArray
    merged: int = 0

    @property
    def size(self) -> int:
        """Number of rows followed, counts included."""
        return int(self.count.sum())

    @property
    def last(self) -> float:
        """The largest observed time: no curve is read past it."""
        return float(self.exit.max())

    def event(self, status: int = 1) -> BoolArray:
        """(n,) True where the row ended with the given status."""
        return np.equal(self.status, status)

    def only(self, rows: BoolArray) -> "FollowUp":
        """The same follow-up for some rows: times stay as chained over the whole data."""
        entry = None if self.entry is None else self.entry[rows]
        if entry is not None and not np.isfinite(entry).any():
            entry = None
        return FollowUp(self.exit[rows], self.status[rows], entry, self.count[rows], self.merged)


def follow_up(
    exit: ArrayLike,
    status: ArrayLike,
    entry: ArrayLike | None = None,
    count: ArrayLike | None = None,
) -> FollowUp:
    """Check and chain follow-up times (methods.md, section 1).

    Args:
        exit: (n,) exit times.
        status: (n,) whole numbers ≥ 0.
        entry: (n,) entry times, −inf for rows under observation from the start.
        count: (n,) whole numbers ≥ 0; 1 each when absent. Rows with count 0 are dropped.

    Raises:
        RefusedRowsError: naming the rows with a time, status or count that cannot be used.
        ValueError: when there are no rows.
    """
    t = np.array(exit, dtype=np.float64)
    s = np.asarray(status, dtype=np.float64)
    e = None if entry is None else np.array(entry, dtype=np.float64)
    w = np.ones(t.size) if count is None else np.asarray(count, dtype=np.float64)
    _refuse(t, s, e, w)
    keep = w > 0
    if not keep.any():
        raise ValueError("there are no rows to follow")
    t = t[keep]
    late = None if e is None or not np.isfinite(e[keep]).any() else e[keep]
    merged = _chain_near_ties(t, late)
    if late is not None and (late >= t).any():
        rows = np.flatnonzero(keep)[late >= t]
        raise RefusedRowsError((Refusal("entry is not before exit", rows),))
    return FollowUp(t, s[keep].astype(np.int64), late, w[keep].astype(np.int64), merged)


def _refuse(t: FloatArray, s: FloatArray, e: FloatArray | None, w: FloatArray) -> None:
    checks = [
        ("the time is missing or not a finite number", ~np.isfinite(t)),
        ("the time is negative", np.isfinite(t) & (t < 0)),
        ("the status has no meaning", ~((s >= 0) & (s == np.floor(s)))),
        ("the count is negative or not a whole number", ~((w >= 0) & (w == np.floor(w)))),
    ]
    if e is not None:
        checks.append(("the entry time is missing or +infinite", np.isnan(e) | (e == np.inf)))
        with np.errstate(invalid="ignore"):
            checks.append(("entry is not before exit", np.isfinite(e) & (e >= t)))
    refusals = tuple(Refusal(why, np.flatnonzero(bad)) for why, bad in checks if bad.any())
    if refusals:
        raise RefusedRowsError(refusals)


def _chain_near_ties(t: FloatArray, e: FloatArray | None) -> int:
    """Set near-tied times, in place, to the smallest of their chain; returns how many were moved."""
    finite = None if e is None else np.isfinite(e)
    everything = t if e is None else np.concatenate([t, e[finite]])
    distinct, position = np.unique(everything, return_inverse=True)
    new_chain = np.diff(distinct) >= NEAR_TIE * np.abs(distinct).max()
    chain = np.concatenate([[0], np.cumsum(new_chain)])
    merged = int(distinct.size - chain[-1] - 1)
    if merged:
        smallest = distinct[np.concatenate([[True], new_chain])]
        chained = smallest[chain][position]
        t[:] = chained[: t.size]
        if e is not None:
            e[finite] = chained[t.size :]
    return merged

"""Follow-up data: who was watched from when to when, and how it ended
(methods.md, section 1: Data)."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike

from hourglass.core.arrays import BoolArray, FloatArray, IntArray
from hourglass.core.errors import Refusal, RefusedRowsError

NEAR_TIE = 1e-9
"""Neighbouring times closer than this share of the largest absolute time are one time."""


@dataclass(frozen=True, slots=True)
class FollowUp:
    """Validated follow-up of n rows. Build it with :func:`follow_up`.

    Attributes:
        exit: (n,) exit times, in the study's unit.
        status: (n,) 0 censored, 1 the event, 2, 3, … competing events.
        entry: (n,) entry times, −inf where the row has no late entry; None when no row has one.
        count: (n,) whole number of identical rows that each row stands for.
        merged: how many distinct times were merged into a smaller near-tie.
        subject: (n,) a number for whoever each row belongs to; None where each row is one.
        last: (n,) True for the row of a subject with its largest exit, over the whole data; None
            where each row is one.
    """

    exit: FloatArray
    status: IntArray
    entry: FloatArray | None
    count: IntArray
    merged: int = 0
    subject: IntArray | None = None
    last: BoolArray | None = None

    @property
    def size(self) -> int:
        """Number of rows followed, counts included."""
        return int(self.count.sum())

    @property
    def end(self) -> float:
        """The largest observed time: no curve is read past it."""
        return float(self.exit.max())

    @property
    def last_rows(self) -> BoolArray:
        """(n,) True for the last row of a subject; True for all where each row is one."""
        return np.ones(self.exit.size, dtype=bool) if self.last is None else self.last

    def event(self, status: int = 1) -> BoolArray:
        """(n,) True where the row ended with the given status."""
        return np.equal(self.status, status)

    def only(self, rows: BoolArray) -> "FollowUp":
        """The same follow-up for some rows: times stay as chained over the whole data."""
        entry = None if self.entry is None else self.entry[rows]
        if entry is not None and not np.isfinite(entry).any():
            entry = None
        return FollowUp(
            self.exit[rows],
            self.status[rows],
            entry,
            self.count[rows],
            self.merged,
            None if self.subject is None else self.subject[rows],
            None if self.last is None else self.last[rows],
        )


def follow_up(
    exit: ArrayLike,
    status: ArrayLike,
    entry: ArrayLike | None = None,
    count: ArrayLike | None = None,
    subject: ArrayLike | None = None,
) -> FollowUp:
    """Check and chain follow-up times (methods.md, section 1: Data).

    Args:
        exit: (n,) exit times.
        status: (n,) whole numbers ≥ 0.
        entry: (n,) entry times, −inf for rows under observation from the start.
        count: (n,) whole numbers ≥ 0; 1 each when absent. Rows with count 0 are dropped.
        subject: (n,) whoever each row belongs to, as a whole number; each row is one when absent.

    Raises:
        RefusedRowsError: naming the rows with a time, status or count that cannot be used, and
            those of one subject that overlap or differ in count.
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
    whose = None if subject is None else np.asarray(subject, dtype=np.int64)[keep]
    last = None if whose is None else _last_rows(t, late, w[keep], whose, np.flatnonzero(keep))
    status_, count_ = s[keep].astype(np.int64), w[keep].astype(np.int64)
    return FollowUp(t, status_, late, count_, merged, whose, last)


def _last_rows(
    t: FloatArray, e: FloatArray | None, w: FloatArray, subject: IntArray, rows: IntArray
) -> BoolArray:
    """(n,) True for each subject's row with the largest exit; rows that cannot be one's are refused."""
    order = np.lexsort((t, subject))
    same = subject[order][1:] == subject[order][:-1]
    entry = np.full(t.size, -np.inf) if e is None else e
    overlapping = same & (entry[order][1:] < t[order][:-1])
    unlike = same & (w[order][1:] != w[order][:-1])
    refusals = tuple(
        Refusal(why, np.sort(rows[order[1:][bad]]))
        for why, bad in (
            ("begins before an earlier row of the same subject ends", overlapping),
            ("differs in count from another row of the same subject", unlike),
        )
        if bad.any()
    )
    if refusals:
        raise RefusedRowsError(refusals)
    last = np.empty(t.size, dtype=bool)
    last[order] = np.concatenate([~same, [True]])
    return last


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

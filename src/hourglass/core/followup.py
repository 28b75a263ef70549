"""Follow-up data: who was watched from when to when, and how it ended
(methods.md, section 1: Data)."""

from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import ArrayLike

from hourglass.core.arrays import BoolArray, FloatArray, IntArray
from hourglass.core.errors import NotEstimableError, Refusal, RefusedRowsError
from hourglass.core.near_ties import NEAR_TIE, chained

MAX_EXACT_COUNT = 2.0**53
"""Counts, and their sum, up to which every whole number is exact."""


@dataclass(frozen=True, slots=True, kw_only=True)
class FollowUp:
    """Validated follow-up of n rows. Build it with :func:`follow_up`.

    Attributes:
        exit: (n,) exit times, in the study's unit.
        status: (n,) 0 censored, 1 the event, 2, 3, … competing events.
        entry: (n,) entry times, −inf where the row has no late entry; None when no row has one.
        count: (n,) whole number of identical rows that each row stands for.
        order: (n,) the rows by ascending exit, at each time those with the event first.
        merged: how many distinct times were merged into a smaller near-tie.
        close: how many neighbouring times that are left apart differ by at most 1e-9 of the larger.
        subject: (n,) a number for whoever each row belongs to; None where each row is one.
        last: (n,) True for the row of a subject with its largest exit, over the whole data; None
            where each row is one.
        entering: (m,) the rows that enter late, by ascending entry.
    """

    exit: FloatArray
    status: IntArray
    entry: FloatArray | None
    count: IntArray
    order: IntArray
    merged: int = 0
    close: int = 0
    subject: IntArray | None = None
    last: BoolArray | None = None
    entering: IntArray = field(default_factory=lambda: np.empty(0, dtype=np.int64))

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
        place = np.cumsum(rows) - 1
        return FollowUp(
            exit=self.exit[rows],
            status=self.status[rows],
            entry=entry,
            count=self.count[rows],
            order=place[self.order[rows[self.order]]],
            merged=self.merged,
            close=self.close,
            subject=None if self.subject is None else self.subject[rows],
            last=None if self.last is None else self.last[rows],
            entering=place[self.entering[rows[self.entering]]],
        )

    def of_cause(self, cause: int) -> "FollowUp":
        """The same rows with one cause as the event, status 1, and all others as censorings."""
        happened = self.event(cause)
        return replace(
            self,
            status=happened.astype(np.int64),
            order=_events_first(self.order, self.exit, happened),
        )

    def counted(self, count: IntArray) -> "FollowUp":
        """The same rows with other counts (n,); those with none are left out."""
        return replace(self.only(count > 0), count=count[count > 0])

    def parted(
        self,
        rows: IntArray,
        entry: FloatArray,
        exit: FloatArray,
        status: IntArray,
        subject: IntArray,
        ends: BoolArray,
    ) -> "FollowUp":
        """Pieces (m,) of rows, each with its own entry, exit and status; ``ends`` marks a row's last."""
        return FollowUp(
            exit=exit,
            status=status,
            entry=entry if np.isfinite(entry).any() else None,
            count=self.count[rows],
            order=_events_first(np.argsort(exit), exit, status == 1),
            merged=self.merged,
            close=self.close,
            subject=subject,
            last=self.last_rows[rows] & ends,
            entering=_by_entry(entry),
        )

    def repeated(self, rows: IntArray, subject: IntArray) -> "FollowUp":
        """Some rows, possibly several times, each counted once and belonging to a new subject (m,)."""
        exit, entry = self.exit[rows], None if self.entry is None else self.entry[rows]
        return FollowUp(
            exit=exit,
            status=self.status[rows],
            entry=entry,
            count=np.ones(rows.size, dtype=np.int64),
            order=_events_first(np.argsort(exit), exit, self.event()[rows]),
            merged=self.merged,
            close=self.close,
            subject=subject,
            last=self.last_rows[rows],
            entering=_by_entry(entry),
        )


def follow_up(
    exit: ArrayLike,
    status: ArrayLike,
    entry: ArrayLike | None = None,
    count: ArrayLike | None = None,
    subject: ArrayLike | None = None,
    near_tie: float = NEAR_TIE,
) -> FollowUp:
    """Check and chain follow-up times (methods.md, section 1: Data).

    Args:
        exit: (n,) exit times.
        status: (n,) whole numbers ≥ 0.
        entry: (n,) entry times, −inf for rows under observation from the start.
        count: (n,) whole numbers ≥ 0; 1 each when absent. Rows with count 0 are dropped.
        subject: (n,) whoever each row belongs to, as a whole number; each row is one when absent.
        near_tie: the share of a time within which an earlier one is the same time.

    Raises:
        RefusedRowsError: naming the rows with a time, status or count that cannot be used, and
            those of one subject that overlap or differ in count.
        NotEstimableError: when there are no rows.
    """
    t = np.array(exit, dtype=np.float64)
    s = np.asarray(status, dtype=np.float64)
    e = None if entry is None else np.array(entry, dtype=np.float64)
    w = np.ones(t.size) if count is None else np.asarray(count, dtype=np.float64)
    _refuse(t, s, e, w)
    keep = w > 0
    if not keep.any():
        raise NotEstimableError("there are no rows to follow")
    t = t[keep]
    late = None if e is None or not np.isfinite(e[keep]).any() else e[keep]
    rows = np.flatnonzero(keep)
    everything = t if late is None else np.concatenate([t, late[np.isfinite(late)]])
    chain = chained(everything, near_tie)
    order = chain.order[chain.order < t.size]
    t, entering = chain.time[: t.size], np.empty(0, dtype=np.int64)
    if late is not None:
        entering = np.flatnonzero(np.isfinite(late))
        late[entering] = chain.time[t.size :]
        entering = entering[chain.order[chain.order >= t.size] - t.size]
        if (late >= t).any():
            raise RefusedRowsError((Refusal("entry is not before exit", rows[late >= t]),))
    whose = None if subject is None else np.asarray(subject, dtype=np.int64)[keep]
    last = None if whose is None else _last_rows(t, late, w[keep], whose, rows)
    order = _events_first(order, t, s[keep] == 1)
    status_, count_ = s[keep].astype(np.int64), w[keep].astype(np.int64)
    return FollowUp(
        exit=t,
        status=status_,
        entry=late,
        count=count_,
        order=order,
        merged=chain.merged,
        close=chain.close,
        subject=whose,
        last=last,
        entering=entering,
    )


def _events_first(order: IntArray, exit: FloatArray, event: BoolArray) -> IntArray:
    """(n,) the rows in an order by exit, at each time those with the event before all others."""
    ordered = exit[order]
    new = ordered[1:] != ordered[:-1]
    if new.all():
        return order
    time = np.concatenate([[0], np.cumsum(new)])
    return order[np.argsort(2 * time + ~event[order], kind="stable")]


def _by_entry(entry: FloatArray | None) -> IntArray:
    """(m,) the rows that enter late, by ascending entry."""
    if entry is None:
        return np.empty(0, dtype=np.int64)
    late = np.flatnonzero(np.isfinite(entry))
    return late[np.argsort(entry[late])]


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
        ("the status has no meaning", ~_counts(s)),
        ("the count is negative, not a whole number, or too large", ~_counts(w)),
    ]
    if _counts(w).all() and w.sum() >= MAX_EXACT_COUNT:
        checks.append(("the counts add up to more than can be counted with", w > 0))
    if e is not None:
        checks.append(("the entry time is missing or +infinite", np.isnan(e) | (e == np.inf)))
        with np.errstate(invalid="ignore"):
            checks.append(("entry is not before exit", np.isfinite(e) & (e >= t)))
    refusals = tuple(Refusal(why, np.flatnonzero(bad)) for why, bad in checks if bad.any())
    if refusals:
        raise RefusedRowsError(refusals)


def _counts(numbers: FloatArray) -> BoolArray:
    """(n,) True for whole numbers from 0 that a float holds exactly."""
    return np.asarray((numbers >= 0) & (numbers < MAX_EXACT_COUNT) & (numbers == np.floor(numbers)))

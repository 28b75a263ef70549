"""Subjects with several rows: who they are, how their follow-up ended
(methods.md, section 2: Survival curve)."""

from dataclasses import dataclass
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from hourglass.core.arrays import BoolArray, IntArray
from hourglass.core.followup import FollowUp

V = TypeVar("V", np.float64, np.int64)


@dataclass(frozen=True, slots=True, kw_only=True)
class SubjectCounts:
    """Rows and subjects of a group, or of all, counts included.

    Attributes:
        rows: rows, each as often as it is counted.
        subjects: those with a row here; without a subject column every row is one.
        events: rows with status 1.
        censored, competing: subjects whose last row is here, with status 0, with a status ≥ 2.
        moved_on: subjects whose last row is in another group.
        before_last: events after which the subject goes on in a later row.
    """

    rows: int
    subjects: int
    events: int
    censored: int
    competing: int
    moved_on: int
    before_last: int


def count_subjects(data: FollowUp) -> SubjectCounts:
    """Count rows and subjects; a row that its subject goes on after is no censoring."""
    last, count = data.last_rows, data.count
    if data.subject is None:
        subjects = data.size
    else:
        _, first = np.unique(data.subject, return_index=True)
        subjects = int(count[first].sum())
    return SubjectCounts(
        rows=data.size,
        subjects=subjects,
        events=int(count[data.event()].sum()),
        censored=int(count[last & data.event(0)].sum()),
        competing=int(count[last & (data.status > 1)].sum()),
        moved_on=subjects - int(count[last].sum()),
        before_last=int(count[~last & data.event()].sum()),
    )


def delayed_entry(data: FollowUp) -> bool:
    """Whether somebody's first entry is above 0, or somebody's rows leave a gap (section 1)."""
    if data.entry is None:
        return False
    if data.subject is None:
        return bool((data.entry > 0).any())
    order = np.lexsort((data.exit, data.subject))
    entry, subject = data.entry[order], data.subject[order]
    first = np.concatenate([[True], subject[1:] != subject[:-1]])
    before = np.concatenate([[0.0], data.exit[order][:-1]])
    return bool((entry > np.where(first, 0.0, before)).any())


def copies_of_subjects(data: FollowUp) -> tuple[IntArray, IntArray]:
    """Whom each row belongs to, and how many copies there are of each.

    Returns:
        (n,) the subject's place in order of first appearance, and (m,) copies by that place;
        without a subject column each row is one.
    """
    if data.subject is None:
        return np.arange(data.exit.size), data.count
    _, first, which = np.unique(data.subject, return_index=True, return_inverse=True)
    appearance = np.argsort(first)
    place = np.empty(first.size, dtype=np.int64)
    place[appearance] = np.arange(first.size)
    return place[which], data.count[first[appearance]]


def one_for_each(subject: IntArray, values: NDArray[V]) -> tuple[NDArray[V], BoolArray]:
    """What each subject has in its first row, and in which rows it has something else.

    Args:
        subject: (n,) the subject's place of each row, from 0.
        values: (n,) or (n, k).

    Returns:
        (m,) or (m, k), and (n,) True for rows in which a value differs from the subject's first.
    """
    own = np.empty((int(subject.max()) + 1, *values.shape[1:]), dtype=values.dtype)
    own[subject[::-1]] = values[::-1]
    differs = own[subject] != values
    return own, differs if values.ndim == 1 else differs.any(axis=1)


def each_copy(data: FollowUp) -> tuple[IntArray, IntArray]:
    """The rows of every copy of a subject, copies side by side.

    Returns:
        (N,) the data row of each, and (N,) its copy, by place in order of first appearance.
    """
    place, copies = copies_of_subjects(data)
    rows = np.repeat(np.arange(data.exit.size), data.count)
    begins = np.cumsum(data.count) - data.count
    nth = np.arange(rows.size) - begins[rows]
    return rows, (np.cumsum(copies) - copies)[place[rows]] + nth

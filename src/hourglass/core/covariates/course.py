"""The value of a covariate over time, subject by subject
(methods.md, section 11: Several tables; time-varying covariates)."""

from dataclasses import dataclass

import numpy as np

from hourglass.core.arrays import BoolArray, FloatArray, IntArray


@dataclass(frozen=True, slots=True)
class Course:
    """A value for each subject that changes just after some times; NaN where it is missing.

    Attributes:
        first: (s,) the value up to and with the subject's first change.
        subject: (c,) whose value changes, ascending; ``after``: (c,) the time just after which it does,
            ascending for each subject; ``value``: (c,) what it is from then on, other than before.
    """

    first: FloatArray
    subject: IntArray
    after: FloatArray
    value: FloatArray

    def at(self, subject: IntArray, time: FloatArray) -> FloatArray:
        """(q,) the value of subjects at times: that after the last change before each time."""
        place = places(self.subject, self.after, subject, time, with_equal=False)
        known = np.append(self.value, np.nan)
        own = np.append(self.subject, -1)
        return np.where(own[place - 1] == subject, known[place - 1], self.first[subject])


def places(
    subject: IntArray, time: FloatArray, of: IntArray, when: FloatArray, *, with_equal: bool
) -> IntArray:
    """How many of the sorted (m,) times are of earlier subjects, or of the same and before ``when``.

    Args:
        subject, time: (m,) sorted by subject, then time.
        of, when: (q,) the subjects and times that are sought.
        with_equal: whether an equal time counts as before.
    """
    every = np.concatenate([time, when])
    _, rank = np.unique(every, return_inverse=True)
    size = int(rank.max(initial=0)) + 1
    keys = subject * size + rank[: time.size]
    sought = of * size + rank[time.size :]
    return np.searchsorted(keys, sought, side="right" if with_equal else "left")


def course_of(first: FloatArray, subject: IntArray, after: FloatArray, value: FloatArray) -> Course:
    """A course from candidate changes in any order: several at one time are alike, and some change nothing.

    Args:
        first: (s,) the value before all changes.
        subject, after, value: (c,) what the value is just after a time; times are finite.
    """
    order = np.lexsort((after, subject))
    subject, after, value = subject[order], after[order], value[order]
    before = np.empty_like(value)
    begins = np.concatenate([[True], subject[1:] != subject[:-1]])[: subject.size]
    before[~begins] = value[:-1][~begins[1:]]
    before[begins] = first[subject[begins]]
    kept = ~same(value, before)
    return Course(first, subject[kept], after[kept], value[kept])


def same(a: FloatArray, b: FloatArray) -> BoolArray:
    """Whether two values are equal, or both missing."""
    return np.asarray((a == b) | (np.isnan(a) & np.isnan(b)))

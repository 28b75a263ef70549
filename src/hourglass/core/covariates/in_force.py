"""The value in force: that of the last record before a time
(methods.md, section 11: Several tables; time-varying covariates, "In force")."""

import numpy as np

from hourglass.core.arrays import FloatArray
from hourglass.core.covariates.course import Course, course_of, places
from hourglass.core.covariates.records import Records, SameTimeRule, one_at_each_time


def in_force(records: Records, baseline: FloatArray, rule: SameTimeRule | None = None) -> Course:
    """The value of the last record strictly before each time, after its limit missing.

    Args:
        baseline: (s,) the time b of each subject; at t ≤ b the last record at or before b counts.
        rule: which value counts where several differ at one time.

    Raises:
        RefusedRowsError: naming the rows of records that differ at one time, where there is no rule.
    """
    held = one_at_each_time(records, rule)
    s = np.arange(baseline.size)
    last = places(held.subject, held.at, s, baseline, with_equal=True) - 1
    own = np.append(held.subject, -1)[last] == s
    there = own & (np.append(held.until, -np.inf)[last] > baseline)
    first = np.where(there, np.append(held.value, np.nan)[last], np.nan)
    later = held.at > baseline[held.subject]
    following = np.append(held.at[1:], np.inf)[: held.at.size]
    following[np.append(held.subject[1:] != held.subject[:-1], True)[: held.at.size]] = np.inf
    ends = (held.until < following) & (held.until > baseline[held.subject])
    subject = np.concatenate([held.subject[later], held.subject[ends]])
    after = np.concatenate([held.at[later], held.until[ends]])
    value = np.concatenate([held.value[later], np.full(int(ends.sum()), np.nan)])
    return course_of(first, subject, after, value)


def change_since_baseline(
    records: Records,
    baseline: FloatArray,
    rule: SameTimeRule | None = None,
    since: FloatArray | None = None,
) -> Course:
    """The value in force less that at baseline.

    Args:
        since: (s,) the time whose baseline is taken away, where it is another, as with a landmark.
    """
    now = in_force(records, baseline, rule)
    then = now.first if since is None else in_force(records, since, rule).first
    return course_of(now.first - then, now.subject, now.after, now.value - then[now.subject])

"""Errors that hold where rows of a cluster belong together (Lin & Wei 1989;
methods.md, section 4: Proportional hazards regression)."""

import numpy as np

from hourglass.core.arrays import FloatArray, IntArray
from hourglass.core.errors import Refusal, RefusedRowsError
from hourglass.core.followup import FollowUp
from hourglass.core.regression.fitted import HazardsFit
from hourglass.core.regression.residuals import at_estimate, changes_without
from hourglass.core.subjects import copies_of_subjects, one_for_each


def robust_covariance(
    data: FollowUp, x: FloatArray, fitted: HazardsFit, cluster: IntArray | None = None
) -> FloatArray:
    """(p, p) Σ_c D_c D_cᵀ, D_c the sum of the cluster's dfbetas; NaN for columns left out.

    Each copy of a row or subject that is its own cluster is one; in a larger cluster copies belong
    together.

    Args:
        data, x, fitted: a fit and what it was made of.
        cluster: (n,) a code for each row; each subject is one when absent.

    Raises:
        RefusedRowsError: naming rows of a subject with several rows in different clusters.
        NotEstimableError: as for :func:`at_estimate`.
    """
    at = at_estimate(data, x, fitted)
    found = np.full((at.kept.size, at.kept.size), np.nan)
    found[np.ix_(at.kept, at.kept)] = _over_clusters(data, changes_without(data, at), cluster)
    return found


def _over_clusters(data: FollowUp, changes: FloatArray, cluster: IntArray | None) -> FloatArray:
    """(q, q) from the dfbetas (n, q) of the columns that were not left out."""
    subject, copies = copies_of_subjects(data)
    of_subject = _sums(changes, subject, copies.size)
    if cluster is None:
        return np.asarray((of_subject.T * copies) @ of_subject)
    own, apart = one_for_each(subject, cluster)
    if apart.any():
        why = "the cluster changes within a subject"
        raise RefusedRowsError((Refusal(why, np.flatnonzero(apart)),))
    codes, place, members = np.unique(own, return_inverse=True, return_counts=True)
    alone = members[place] == 1
    total = (of_subject[alone].T * copies[alone]) @ of_subject[alone]
    weighted = of_subject[~alone] * copies[~alone, None]
    sums = _sums(weighted, place[~alone], codes.size)
    return np.asarray(total + sums.T @ sums)


def _sums(rows: FloatArray, place: IntArray, size: int) -> FloatArray:
    """(size, q) the sums of rows (n, q) by place."""
    found = np.empty((size, rows.shape[1]))
    for k, column in enumerate(rows.T):
        found[:, k] = np.bincount(place, column, size)
    return found

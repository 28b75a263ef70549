"""The cut of a numeric variable at which two groups differ most, and how often chance alone would
give so large a difference (methods.md, section 3: Comparing groups)."""

from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import numpy as np

from hourglass.core.arrays import FloatArray, IntArray
from hourglass.core.comparison.cut_bounds import Moved
from hourglass.core.comparison.cut_scores import ROUNDING, cut_scores
from hourglass.core.comparison.cuts import cuts_of
from hourglass.core.comparison.weights import EQUAL, Weight
from hourglass.core.errors import NotEstimableError, Refusal, RefusedRowsError
from hourglass.core.followup import FollowUp
from hourglass.core.progress import ProgressCallback, no_progress
from hourglass.core.streams import ascending, refuse_too_many, uniforms
from hourglass.core.subjects import copies_of_subjects, each_copy, one_for_each

PERMUTATIONS = 1_000
SECTION = 3
SAME = 1e-12
"""A permutation that comes so near to the observed value reaches it."""
AT_ONCE = 25
"""Permutations that one worker is given at a time."""


@dataclass(frozen=True, slots=True)
class ThresholdProfile:
    """The test at every admissible cut of x: x ≤ c against x > c.

    Attributes:
        cut: (m,) the cuts c, values of x, ascending; ``statistic``: (m,) the test at each, on 1
            degree of freedom; NaN where the groups could differ at no event time.
        largest: the largest statistic; ``best``: the smallest cut that has it.
    """

    cut: FloatArray
    statistic: FloatArray
    largest: float
    best: float


def threshold_profile(
    data: FollowUp, x: FloatArray, weight: Weight = EQUAL, stratum: IntArray | None = None
) -> ThresholdProfile:
    """The statistic of the two groups at every admissible cut; O(n log n).

    Args:
        data: the follow-up of n rows.
        x: (n,) the variable, finite.
        weight, stratum: as for :func:`hourglass.core.comparison.log_rank.log_rank`.

    Raises:
        RefusedRowsError: naming rows without a finite x, or in which x or the stratum changes
            within a subject.
        NotEstimableError: when no cut is admissible, or none has a test.
    """
    subject, copies = copies_of_subjects(data)
    value = _of_subjects(subject, x, stratum)
    cuts = cuts_of(value, copies)
    scores = cut_scores(data, subject, weight, stratum)
    admissible = cuts.ends[cuts.enough_events(scores.events[cuts.order])]
    if not admissible.size:
        raise NotEstimableError("no cut leaves a tenth of the subjects and 5 events on each side")
    u = np.cumsum(scores.excess[cuts.order])[admissible]
    v = scores.variance(cuts.order)[admissible]
    varies = v > ROUNDING * np.cumsum(scores.linear[cuts.order])[admissible]
    statistic = np.divide(u**2, v, out=np.full(u.size, np.nan), where=varies)
    if not varies.any():
        raise NotEstimableError("at no event time are both sides of an admissible cut at risk")
    cut = value[cuts.order][admissible]
    best = int(np.nanargmax(statistic))
    return ThresholdProfile(cut, statistic, float(statistic[best]), float(cut[best]))


def threshold_p(
    data: FollowUp,
    x: FloatArray,
    profile: ThresholdProfile,
    seed: int,
    weight: Weight = EQUAL,
    stratum: IntArray | None = None,
    permutations: int = PERMUTATIONS,
    progress: ProgressCallback = no_progress,
    workers: int = 2,
) -> float:
    """The p of the largest statistic: how often x moved among the subjects, within strata, reaches it.

    Args:
        data, x, weight, stratum: what ``profile`` was made of.
        permutations: 1,000 at least.
        workers: threads; the result does not depend on their number.

    Raises:
        NotEstimableError: when there are more copies than can be drawn.
        ValueError: for fewer permutations.
    """
    if permutations < PERMUTATIONS:
        raise ValueError(f"{PERMUTATIONS} permutations are the fewest that give a p")
    refuse_too_many(int(copies_of_subjects(data)[1].sum()))
    rows, copy = each_copy(data)
    one_each = data.repeated(rows, copy)
    part = None if stratum is None else stratum[rows]
    subject, copies = copies_of_subjects(one_each)
    value = _of_subjects(subject, x[rows], part)
    moved = Moved(cuts_of(value, copies), cut_scores(one_each, subject, weight, part))
    of_subject = np.zeros(copies.size, dtype=np.int64)
    if part is not None:
        of_subject, _ = one_for_each(subject, part)
    strata = [np.flatnonzero(of_subject == code) for code in np.unique(of_subject)]
    bar = (1 - SAME) * profile.largest

    def reach(first: int) -> int:
        found = 0
        for b in range(first, min(first + AT_ONCE, permutations)):
            draws = uniforms(copies.size, seed, SECTION, b)
            now_at = np.empty(copies.size, dtype=np.int64)
            for places in strata:
                now_at[places[ascending(draws[places])]] = places
            found += moved.reaches(now_at, bar)
        return found

    reached = 0
    with ThreadPoolExecutor(workers) as pool:
        try:
            for k, found in enumerate(pool.map(reach, range(0, permutations, AT_ONCE))):
                reached += found
                progress("moving the values among the subjects", k * AT_ONCE / permutations)
        except BaseException:
            pool.shutdown(cancel_futures=True)
            raise
    return (1 + reached) / (permutations + 1)


def _of_subjects(subject: IntArray, x: FloatArray, stratum: IntArray | None) -> FloatArray:
    """(m,) each subject's value; rows without one, or among which it changes, are refused."""
    strange = ~np.isfinite(x)
    refusals = [Refusal("the variable that is cut is missing or infinite", np.flatnonzero(strange))]
    value, changes = one_for_each(subject, x)
    changes &= ~strange
    refusals.append(
        Refusal("the variable that is cut changes within a subject", np.flatnonzero(changes))
    )
    if stratum is not None:
        moves = np.flatnonzero(one_for_each(subject, stratum)[1])
        refusals.append(Refusal("the stratum changes within a subject", moves))
    refused = tuple(r for r in refusals if r.rows.size)
    if refused:
        raise RefusedRowsError(refused)
    return value

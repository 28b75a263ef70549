"""An effect within the levels of another variable, and whether it differs among them
(methods.md, section 4: Proportional hazards regression, "Subgroups")."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np

from hourglass.core.arrays import FloatArray, IntArray
from hourglass.core.comparison.chi_squared import Test, chi_squared, no_test
from hourglass.core.followup import FollowUp
from hourglass.core.regression.fit import fit
from hourglass.core.regression.fitted import HazardsFit
from hourglass.core.regression.terms import level_columns
from hourglass.core.regression.ties import EFRON, TieMethod
from hourglass.core.subjects import SubjectCounts, count_subjects


@dataclass(frozen=True, slots=True)
class Subgroups:
    """The effect of some columns in each of L levels.

    Attributes:
        divided: the model in which each of the m columns has a coefficient of its own in each level;
            ``place``: (L, m) where it stands there. One that is aliased has none.
        levels: rows and events of each level.
        test: likelihood ratio against the same model with the columns undivided, its degrees of freedom
            the difference in ratios that can be estimated: a level without one counts for none.
    """

    divided: HazardsFit
    place: IntArray
    levels: tuple[SubjectCounts, ...]
    test: Test


def subgroups(
    data: FollowUp,
    x: FloatArray,
    main: Sequence[int],
    code: IntArray,
    levels: int,
    offset: FloatArray | None = None,
    ties: TieMethod = EFRON,
    stratum: IntArray | None = None,
) -> Subgroups:
    """Put x·1(level) in place of each main column x, the levels added to the model.

    Args:
        data, x, offset, ties, stratum: as for :func:`fit`, rows complete for the variable.
        main: the positions of the main term's columns in ``x``.
        code: (n,) the level of each row, 0 … levels − 1.

    Raises:
        NotEstimableError: as for :func:`fit`.
    """
    others = [k for k in range(x.shape[1]) if k not in set(main)]
    beside = np.column_stack([x[:, others], level_columns(code, levels, 0)])
    own = x[:, list(main)]
    inside = level_columns(code, levels, levels)
    parted = (inside[:, :, None] * own[:, None, :]).reshape(code.size, -1)
    divided = fit(data, np.column_stack([beside, parted]), offset, ties=ties, stratum=stratum)
    undivided = fit(data, np.column_stack([beside, own]), offset, ties=ties, stratum=stratum)
    place = beside.shape[1] + np.arange(levels * len(main)).reshape(levels, len(main))
    counts = tuple(count_subjects(data.only(code == level)) for level in range(levels))
    whole = range(beside.shape[1], beside.shape[1] + len(main))
    df = _estimable(divided, place.ravel().tolist()) - _estimable(undivided, whole)
    if df <= 0:
        test = no_test("fewer than two levels have a ratio that can be estimated")
    else:
        test = chi_squared(max(2 * (divided.value - undivided.value), 0.0), df)
    return Subgroups(divided, place, counts, test)


def _estimable(fitted: HazardsFit, columns: Iterable[int]) -> int:
    """How many of some columns have an estimate, be it infinite."""
    return sum(fitted.status[k] not in {"aliased", "undetermined"} for k in columns)

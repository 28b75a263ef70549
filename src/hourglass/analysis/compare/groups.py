"""What a comparison is computed from."""

from dataclasses import dataclass

import numpy as np

from hourglass.analysis.catalogue.adjustments import ADJUSTMENTS
from hourglass.analysis.catalogue.weights import WEIGHTS
from hourglass.analysis.compare.statement import CompareStatement
from hourglass.analysis.shared.curve_form import CurveForm
from hourglass.analysis.shared.curves import Curve, CurveNumbers, curves_of_groups
from hourglass.analysis.shared.grouping import grouped, require_column
from hourglass.analysis.shared.groups import Groups, group_by
from hourglass.cohort.followup import Cohort
from hourglass.core.arrays import BoolArray, IntArray
from hourglass.core.comparison.log_rank import LogRank, log_rank
from hourglass.core.comparison.pairs import Pair, pairs
from hourglass.core.comparison.weights import Weight
from hourglass.core.errors import NotEstimableError
from hourglass.core.followup import FollowUp

MIN_FOR_PAIRS = 3
"""Of two groups the one pair is the comparison itself."""


@dataclass(frozen=True, slots=True)
class ComparisonNumbers:
    """What is estimated of a comparison: the curves of its groups, and the planned test."""

    curves: tuple[CurveNumbers, ...]
    log_rank: LogRank


@dataclass(frozen=True, slots=True, kw_only=True)
class Comparison:
    """Curves of the groups with their test; shared by the result and its workings.

    Attributes:
        form: of the curves, at the level that is stated.
        rows: which of the cohort's rows are compared; ``data``, ``code``, ``stratum``: those rows, the
            group of each and its stratum.
        left_out: rows without a group; ``without_stratum``: others without a stratum.
        contrast: the place of the group whose difference from the reference is drawn.
    """

    statement: CompareStatement
    form: CurveForm
    groups: Groups
    rows: BoolArray
    data: FollowUp
    code: IntArray
    stratum: IntArray | None
    curves: tuple[Curve, ...]
    log_rank: LogRank
    left_out: int
    without_stratum: int
    contrast: int

    @property
    def numbers(self) -> ComparisonNumbers:
        """The estimates of its curves, and its log-rank test."""
        return ComparisonNumbers(tuple(curve.numbers for curve in self.curves), self.log_rank)

    @property
    def end(self) -> float:
        """The time up to which the contrast and the reference are both followed."""
        return min(self.curves[0].data.end, self.curves[self.contrast].data.end)

    @property
    def reference(self) -> str:
        """The label of the reference group."""
        return self.groups.labels[0]

    @property
    def contrasted(self) -> str:
        """The label of the group whose difference is drawn."""
        return self.groups.labels[self.contrast]

    @property
    def weight(self) -> Weight:
        """The weight of the planned test."""
        return WEIGHTS[self.statement.weight].method

    def tested(self, weight: Weight) -> LogRank:
        """The test with a weight."""
        return log_rank(self.data, self.code, len(self.groups.labels), weight, self.stratum)


def comparison(
    cohort: Cohort,
    statement: CompareStatement,
    form: CurveForm,
    known: ComparisonNumbers | None = None,
) -> Comparison:
    """Curves and test by the statement's groups, rows without one, or without a stratum, left out.

    Args:
        form: that of the study's curves; the statement may state another level.
        known: what is estimated of it, where that is known.

    Raises:
        NotEstimableError: when there are no such groups, no row has one, or there is only one.
    """
    groups = grouped(cohort, statement)
    stratum = strata_of(cohort, statement)
    has_group = groups.code >= 0
    used = has_group & (stratum >= 0)
    if not used.any():
        raise NotEstimableError("No row has both a group and a stratum.")
    if len(groups.labels) < 2:
        raise NotEstimableError(
            f"All rows that have one are in one group, {groups.labels[0]}: there is nothing to compare."
        )
    data = cohort.follow_up if used.all() else cohort.follow_up.only(used)
    code = groups.code[used]
    strata = stratum[used] if statement.within else None
    form = form.at_level(statement.confidence)
    curves = curves_of_groups(
        data, form, groups.labels, code, groups.tones, known.curves if known else ()
    )
    if len(curves) < len(groups.labels):
        raise NotEstimableError("A group has no row with a stratum.")
    weight = WEIGHTS[statement.weight].method
    return Comparison(
        statement=statement,
        form=form,
        groups=groups,
        rows=used,
        data=data,
        code=code,
        stratum=strata,
        curves=curves,
        log_rank=known.log_rank
        if known
        else log_rank(data, code, len(groups.labels), weight, strata),
        left_out=int((~has_group).sum()),
        without_stratum=int((has_group & ~used).sum()),
        contrast=contrast_of(groups, statement.contrast),
    )


def tested_pairs(found: Comparison) -> tuple[Pair, ...]:
    """The pairs of groups that are requested, tested; none where none are."""
    stated, groups = found.statement, len(found.groups.labels)
    if stated.pairs == "none" or groups < MIN_FOR_PAIRS:
        return ()
    return pairs(
        found.data,
        found.code,
        groups,
        found.weight,
        found.stratum,
        reference=0 if stated.pairs == "reference" else None,
        adjustment=ADJUSTMENTS[stated.adjustment].method,
    )


def strata_of(cohort: Cohort, statement: CompareStatement) -> IntArray:
    """(n,) a code for each row's stratum, −1 where a value is missing."""
    code = np.zeros(cohort.follow_up.exit.size, dtype=np.int64)
    for name in statement.within:
        require_column(cohort, name)
        levels = group_by(cohort.table, name, None)
        missing = (code < 0) | (levels.code < 0)
        code = np.where(missing, -1, code * len(levels.labels) + levels.code)
    return code


def contrast_of(groups: Groups, wanted: str | None) -> int:
    """The place of the group whose difference from the reference is drawn."""
    return groups.labels.index(wanted) if wanted in groups.labels[1:] else 1

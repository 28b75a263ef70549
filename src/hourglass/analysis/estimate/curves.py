"""The curves of Estimate: of everyone, or of each group."""

from collections.abc import Sequence
from dataclasses import dataclass

from hourglass.analysis.catalogue.intervals import INTERVALS
from hourglass.analysis.estimate.statement import EstimateStatement
from hourglass.analysis.shared.curves import Curve, CurveNumbers, curve_of, curves_of_groups
from hourglass.analysis.shared.grouping import grouped
from hourglass.analysis.shared.groups import Groups
from hourglass.analysis.shared.ink import INK
from hourglass.cohort.followup import Cohort


@dataclass(frozen=True, slots=True)
class Estimated:
    """What Estimate is computed from; shared by the result and its workings.

    Attributes:
        statement: as requested, without what cannot be had of these data.
        curves: of everyone, or of each group.
        groups: these groups, where there are any.
    """

    cohort: Cohort
    statement: EstimateStatement
    curves: tuple[Curve, ...]
    groups: Groups | None = None

    @property
    def left_out(self) -> int:
        """Rows without a group."""
        return 0 if self.groups is None else int((self.groups.code < 0).sum())

    @property
    def grouped(self) -> bool:
        """Whether the curves are those of groups."""
        return self.statement.by is not None

    @property
    def shades(self) -> bool:
        """Whether curves have bands: bars and nothing have none."""
        return INTERVALS[self.statement.intervals].limits_drawn


def estimated(
    cohort: Cohort, statement: EstimateStatement, known: Sequence[CurveNumbers] = ()
) -> Estimated:
    """The curves that are requested, rows without a group left out.

    Args:
        known: what is estimated of each of them, where it is known.

    Raises:
        NotEstimableError: when there are no such groups, or nobody is free of the event any more
            where the curves are to begin.
    """
    data, form = cohort.follow_up, statement.form
    if statement.by is None:
        everyone = curve_of(
            data, form, f"all {cohort.rows_are}", INK, known=known[0] if known else None
        )
        return Estimated(cohort, statement, (everyone,))
    groups = grouped(cohort, statement)
    curves = curves_of_groups(data, form, groups.labels, groups.code, groups.tones, known)
    return Estimated(cohort, statement, curves, groups)

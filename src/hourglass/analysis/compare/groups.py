"""What a comparison is computed from."""

from dataclasses import dataclass

from hourglass.analysis.compare.statement import CompareStatement
from hourglass.analysis.shared.curves import Curve, CurveForm, curve_of
from hourglass.analysis.shared.groups import Groups, group_by
from hourglass.cohort.followup import Cohort
from hourglass.core.comparison.log_rank import LogRank, log_rank
from hourglass.core.comparison.weights import WEIGHTS
from hourglass.core.errors import NotEstimableError
from hourglass.core.variants import variant


@dataclass(frozen=True, slots=True)
class Comparison:
    """Curves of the groups with their test; shared by the result and its workings."""

    groups: Groups
    curves: tuple[Curve, ...]
    log_rank: LogRank
    left_out: int
    contrast: int

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


def comparison(cohort: Cohort, statement: CompareStatement) -> Comparison:
    """Curves and test by the statement's category, rows without one left out.

    Raises:
        NotEstimableError: when no row has a group.
    """
    assert statement.by is not None
    groups = group_by(cohort.table, statement.by, statement.reference)
    known = groups.code >= 0
    if not known.any():
        raise NotEstimableError(f"no row has a value of {statement.by}")
    data = cohort.follow_up if known.all() else cohort.follow_up.only(known)
    code = groups.code[known]
    curves = tuple(
        curve_of(data, CurveForm(statement.confidence), label, tone, code == tone)
        for tone, label in enumerate(groups.labels)
    )
    test = log_rank(data, code, len(groups.labels), variant(WEIGHTS, statement.weight))
    return Comparison(
        groups, curves, test, int((~known).sum()), contrast_of(groups, statement.contrast)
    )


def contrast_of(groups: Groups, wanted: str | None) -> int:
    """The place of the group whose difference from the reference is drawn."""
    return groups.labels.index(wanted) if wanted in groups.labels[1:] else 1

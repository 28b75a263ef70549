"""The numbers of the parts of Compare: every weight, medians of samples, the best threshold."""

from dataclasses import dataclass

from hourglass.analysis.catalogue.weights import WEIGHTS
from hourglass.analysis.compare.groups import comparison
from hourglass.analysis.compare.statement import CompareStatement
from hourglass.analysis.compare.threshold_profile import profile_of, values_of
from hourglass.analysis.shared.curve_form import USUAL, study_form
from hourglass.analysis.shared.declared import Statements, statement_of
from hourglass.analysis.shared.grouping import GROUP_FIELDS
from hourglass.analysis.shared.numbers import Numbers, Refused
from hourglass.cohort.followup import Cohort
from hourglass.core.comparison.chi_squared import Test
from hourglass.core.comparison.combined import Combined, combined
from hourglass.core.comparison.thresholds import ThresholdProfile, threshold_p
from hourglass.core.contrast import Contrast
from hourglass.core.curves.median_ratio import SAMPLES, Arm, median_ratio
from hourglass.core.errors import NotEstimableError
from hourglass.core.progress import ProgressCallback

COMPARED = (*GROUP_FIELDS, "within")
"""The statement of whose rows are compared."""


def _stated(stated: Statements) -> CompareStatement:
    return statement_of(stated, CompareStatement)


@dataclass(frozen=True, slots=True)
class WeightNumbers:
    """The test with each weight, by its key; and with several at once, of two groups."""

    tests: dict[str, Test]
    together: Combined | None


def weight_numbers(
    cohort: Cohort, stated: Statements, progress: ProgressCallback
) -> WeightNumbers | Refused:
    """The same comparison with every weight."""
    progress("testing with other weights", 0.2)
    try:
        found = comparison(cohort, _stated(stated), USUAL)
    except NotEstimableError as reason:
        return Refused(str(reason))
    two = len(found.groups.labels) == 2
    return WeightNumbers(
        {key: found.tested(one.method).test for key, one in WEIGHTS.items()},
        combined(found.data, found.code, found.stratum) if two else None,
    )


WEIGHTED = Numbers({"compare": COMPARED}, weight_numbers)


def median_numbers(
    cohort: Cohort, stated: Statements, progress: ProgressCallback
) -> tuple[Contrast, ...] | Refused:
    """Each group's median over the reference's, with limits of samples within each group."""
    statement = _stated(stated)
    level = statement.confidence or study_form(stated).confidence
    try:
        found = comparison(cohort, statement, USUAL)
        arms = [Arm(curve.data, k) for k, curve in enumerate(found.curves)]
        return tuple(
            median_ratio(arms[0], own, statement.seed, level, SAMPLES, progress) for own in arms[1:]
        )
    except NotEstimableError as reason:
        return Refused(str(reason))


MEDIANS = Numbers(
    {"compare": (*COMPARED, "confidence", "seed"), "estimate": ("confidence",)}, median_numbers
)


@dataclass(frozen=True, slots=True)
class ThresholdNumbers:
    """The statistic at every threshold, the p of the largest, and the test at the one that is stated."""

    profile: ThresholdProfile
    p: float
    stated: Test


def threshold_numbers(
    cohort: Cohort, stated: Statements, progress: ProgressCallback
) -> ThresholdNumbers | Refused:
    """The profile over all admissible thresholds with the p of its maximum, by permutations."""
    statement = _stated(stated)
    try:
        found = comparison(cohort, statement, USUAL)
        profile = profile_of(cohort, found)
        if isinstance(profile, Refused):
            return profile
        x = values_of(cohort, found)
        p = threshold_p(
            found.data, x, profile, statement.seed, found.weight, found.stratum, progress=progress
        )
    except NotEstimableError as reason:
        return Refused(str(reason))
    return ThresholdNumbers(profile, p, found.log_rank.test)


THRESHOLDS = Numbers(
    {"compare": ("by", "thresholds", "within", "weight", "seed")}, threshold_numbers
)

"""The numbers of Compare: curves and test of the groups, or the test of each variable in turn
(methods.md, section 3: Comparing groups)."""

from dataclasses import dataclass

from hourglass.analysis.compare.groups import (
    Comparison,
    ComparisonNumbers,
    comparison,
    tested_pairs,
)
from hourglass.analysis.compare.statement import CompareStatement
from hourglass.analysis.compare.threshold_profile import profile_of, split_by_one
from hourglass.analysis.compare.variables import screened
from hourglass.analysis.shared.curve_form import FORM_FIELDS, study_form
from hourglass.analysis.shared.declared import Statements, statement_of
from hourglass.analysis.shared.grouping import GROUP_FIELDS
from hourglass.analysis.shared.numbers import Numbers, Refused
from hourglass.cohort.followup import Cohort
from hourglass.core.comparison.chi_squared import Test, no_test
from hourglass.core.comparison.pairs import Pair
from hourglass.core.comparison.screening import Screened
from hourglass.core.comparison.thresholds import ThresholdProfile
from hourglass.core.competing.gray import gray_test
from hourglass.core.errors import NotEstimableError
from hourglass.core.progress import ProgressCallback


@dataclass(frozen=True, slots=True)
class CompareNumbers:
    """What is computed of one comparison, or of each variable in turn.

    Attributes:
        compared: curves and test; None where nothing is compared, ``refused`` giving the reason.
        pairs: of groups, tested; ``gray``: the test of cumulative incidence, where events compete.
        screened: what was found of each variable, the strongest first.
        profile: the statistic at every threshold, where the groups are the two sides of one.
    """

    compared: ComparisonNumbers | None = None
    pairs: tuple[Pair, ...] = ()
    gray: Test | None = None
    screened: tuple[Screened, ...] = ()
    profile: ThresholdProfile | None = None
    refused: str = ""


def compare_numbers(
    cohort: Cohort, stated: Statements, progress: ProgressCallback
) -> CompareNumbers:
    """Compare the groups that are requested."""
    statement = statement_of(stated, CompareStatement)
    if statement.each:
        progress("testing each variable", 0.2)
        return CompareNumbers(screened=screened(cohort, statement, progress))
    if statement.by is None:
        return CompareNumbers()
    progress("comparing groups", 0.1)
    try:
        found = comparison(cohort, statement, study_form(stated))
    except NotEstimableError as reason:
        return CompareNumbers(refused=str(reason))
    gray = _gray(found) if cohort.competing else None
    profile = profile_of(cohort, found) if split_by_one(cohort, statement) else None
    return CompareNumbers(
        compared=found.numbers,
        pairs=tested_pairs(found),
        gray=gray,
        profile=None if isinstance(profile, Refused) else profile,
    )


def _gray(found: Comparison) -> Test:
    try:
        return gray_test(found.data, found.code, len(found.groups.labels)).test
    except NotEstimableError as reason:
        return no_test(str(reason))


OWN = (*GROUP_FIELDS, "each", "variables", "confidence", "weight", "within", "pairs", "adjustment")
JUDGED = ("tried", "seed")
"""What the p of a threshold that was moved follows from, too."""
NUMBERS = Numbers({"compare": (*OWN, *JUDGED), "estimate": FORM_FIELDS}, compare_numbers)

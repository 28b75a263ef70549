"""How p-values may be adjusted for how many there are (methods.md, section 3: Comparing groups)."""

from dataclasses import dataclass

from hourglass.analysis.catalogue.entry import MethodEntry, catalogue
from hourglass.analysis.catalogue.sources import Reference
from hourglass.core.comparison import adjustments as core


@dataclass(frozen=True, slots=True, kw_only=True)
class AdjustmentEntry(MethodEntry):
    """An adjustment.

    Attributes:
        claim: after "the p-values" in the section on methods.
        rule: how an adjusted p arises, in workings.
    """

    method: core.Adjustment
    claim: str
    rule: str


ADJUSTMENTS = catalogue(
    AdjustmentEntry(
        method=core.NO_ADJUSTMENT,
        name="nothing",
        note="each p as if it were the only one",
        claim="not adjusted",
        rule="as they are",
    ),
    AdjustmentEntry(
        method=core.BONFERRONI,
        name="Bonferroni",
        note="p times the number of tests",
        claim="adjusted by Bonferroni",
        rule="m × p, m the number of tests, at most 1",
    ),
    AdjustmentEntry(
        method=core.SIDAK,
        name="Šidák",
        note="exact for independent tests",
        sources=(
            Reference(
                "Šidák 1967",
                "Šidák Z. Rectangular confidence regions for the means of multivariate normal distributions. "
                "Journal of the American Statistical Association 1967; 62: 626–633.",
            ),
        ),
        claim="adjusted by Šidák",
        rule="1 − (1 − p)^m, m the number of tests",
    ),
    AdjustmentEntry(
        method=core.HOLM,
        name="Holm",
        note="as sure as Bonferroni, never less able",
        sources=(
            Reference(
                "Holm 1979",
                "Holm S. A simple sequentially rejective multiple test procedure. Scandinavian Journal of "
                "Statistics 1979; 6: 65–70.",
            ),
        ),
        claim="adjusted by Holm",
        rule="p in ascending order, the i-th × (m − i + 1); none below one before it, at most 1",
    ),
    AdjustmentEntry(
        method=core.HOCHBERG,
        name="Hochberg",
        note="for tests that do not depend on each other against one another",
        sources=(
            Reference(
                "Hochberg 1988",
                "Hochberg Y. A sharper Bonferroni procedure for multiple tests of significance. Biometrika "
                "1988; 75: 800–802.",
            ),
        ),
        claim="adjusted by Hochberg",
        rule="p in ascending order, the i-th × (m − i + 1); none above one after it, at most 1",
    ),
    AdjustmentEntry(
        method=core.FALSE_DISCOVERIES,
        name="Benjamini–Hochberg",
        note="the share of false ones among those found",
        sources=(
            Reference(
                "Benjamini & Hochberg 1995",
                "Benjamini Y, Hochberg Y. Controlling the false discovery rate: a practical and powerful "
                "approach to multiple testing. Journal of the Royal Statistical Society B 1995; 57: 289–300.",
            ),
        ),
        claim="adjusted by Benjamini–Hochberg",
        rule="p in ascending order, the i-th × m / i; none above one after it, at most 1",
    ),
    methods=core.ADJUSTMENTS,
)

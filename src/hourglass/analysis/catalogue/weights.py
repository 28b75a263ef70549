"""The weights of event times that a test of groups may have (methods.md, section 3: Comparing groups)."""

from dataclasses import dataclass

from hourglass.analysis.catalogue.entry import MethodEntry, catalogue
from hourglass.analysis.catalogue.sources import Reference
from hourglass.core.comparison import weights as core

OF_SURVIVAL = Reference(
    "Peto & Peto 1972",
    "Peto R, Peto J. Asymptotically efficient rank invariant test procedures. Journal of the Royal "
    "Statistical Society A 1972; 135: 185–207.",
)
OF_POWERS = Reference(
    "Fleming & Harrington 1991",
    "Fleming TR, Harrington DP. Counting Processes and Survival Analysis. New York: Wiley, 1991.",
)


@dataclass(frozen=True, slots=True, kw_only=True)
class WeightEntry(MethodEntry):
    """A weight of the test.

    Attributes:
        test: the test's name in a sentence.
        symbol: W in a formula; blank where it is 1.
        rests_on: where it comes from, under the workings.
    """

    method: core.Weight
    test: str
    symbol: str
    rests_on: str

    @property
    def heading(self) -> str:
        """The test's name where it stands first."""
        return self.test[:1].upper() + self.test[1:]


WEIGHTS = catalogue(
    WeightEntry(
        method=core.EQUAL,
        name="log-rank",
        note="all event times count equally: most able to find a ratio of rates that stays the same",
        sources=(
            Reference(
                "Mantel 1966",
                "Mantel N. Evaluation of survival data and two new rank order statistics arising in its "
                "consideration. Cancer Chemotherapy Reports 1966; 50: 163–170.",
            ),
        ),
        test="log-rank",
        symbol="",
        rests_on="Mantel (1966). All event times weigh equally.",
    ),
    WeightEntry(
        method=core.AT_RISK,
        name="Gehan–Breslow",
        note="early times count more, by the number at risk, which censoring lowers too",
        sources=(
            Reference(
                "Gehan 1965",
                "Gehan EA. A generalized Wilcoxon test for comparing arbitrarily singly-censored samples. "
                "Biometrika 1965; 52: 203–223.",
            ),
        ),
        test="Gehan–Breslow",
        symbol="n",
        rests_on="Gehan (1965), Breslow (1970). An event time weighs as the number at risk.",
    ),
    WeightEntry(
        method=core.ROOT_AT_RISK,
        name="Tarone–Ware",
        note="early times count more, by the root of the number at risk",
        sources=(
            Reference(
                "Tarone & Ware 1977",
                "Tarone RE, Ware J. On distribution-free tests for equality of survival distributions. "
                "Biometrika 1977; 64: 156–160.",
            ),
        ),
        test="Tarone–Ware",
        symbol="√n",
        rests_on="Tarone & Ware (1977). An event time weighs as the root of the number at risk.",
    ),
    WeightEntry(
        method=core.PRODUCT_SURVIVAL,
        name="Peto–Peto",
        note="early times count more, by survival, whatever the censoring",
        sources=(OF_SURVIVAL,),
        test="Peto–Peto",
        symbol="Π (1 − d/(n + 1))",
        rests_on="Peto & Peto (1972), in the form of Prentice (1978). An event time weighs as the survival "
        "of all groups together.",
    ),
    WeightEntry(
        method=core.MODIFIED_SURVIVAL,
        name="modified Peto–Peto",
        note="as Peto–Peto, with the last few at risk counting a little less",
        sources=(OF_SURVIVAL,),
        test="modified Peto–Peto",
        symbol="n/(n + 1) Π (1 − d/(n + 1))",
        rests_on="Andersen, Borgan, Gill & Keiding (1982). An event time weighs as the survival of all "
        "groups together times n/(n + 1).",
    ),
    WeightEntry(
        method=core.EARLY,
        name="Fleming–Harrington (1, 0)",
        note="early times count more, by the Kaplan–Meier curve of all groups just before",
        sources=(OF_POWERS,),
        test="Fleming–Harrington (1, 0)",
        symbol="S(t−)",
        rests_on="Fleming & Harrington (1991) with ρ = 1, γ = 0.",
    ),
    WeightEntry(
        method=core.LATE,
        name="Fleming–Harrington (0, 1)",
        note="late times count more: most able to find a difference that comes late",
        sources=(OF_POWERS,),
        test="Fleming–Harrington (0, 1)",
        symbol="1 − S(t−)",
        rests_on="Fleming & Harrington (1991) with ρ = 0, γ = 1.",
    ),
    WeightEntry(
        method=core.MIDDLE,
        name="Fleming–Harrington (1, 1)",
        note="middle times count more: most able to find a difference in the middle of follow-up",
        sources=(OF_POWERS,),
        test="Fleming–Harrington (1, 1)",
        symbol="S(t−) (1 − S(t−))",
        rests_on="Fleming & Harrington (1991) with ρ = γ = 1.",
    ),
    methods=core.WEIGHTS,
)

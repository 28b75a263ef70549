"""What each weight of the test is called, in the sentence, the result, the workings and the report."""

from dataclasses import dataclass

from hourglass.analysis.shared import wording
from hourglass.core.comparison.weights import WEIGHTS


@dataclass(frozen=True, slots=True)
class WeightWords:
    """The words of a weight.

    Attributes:
        weighting: in the sentence, after "weighting".
        note: what the choice would do.
        test: the test's name in a sentence; ``heading`` where it stands first.
        symbol: W in a formula; blank where it is 1.
        source: where it comes from.
    """

    weighting: str
    note: str
    test: str
    symbol: str
    source: str

    @property
    def heading(self) -> str:
        """The test's name where it stands first."""
        return wording.capital(self.test)


WORDS: dict[str, WeightWords] = {
    "equal": WeightWords(
        "all times equally",
        "most able to find a ratio of rates that stays the same",
        "log-rank",
        "",
        "Mantel (1966). All event times weigh equally.",
    ),
    "at risk": WeightWords(
        "early times more, by n",
        "each event time counts as the number at risk, which censoring lowers too",
        "Gehan–Breslow",
        "n",
        "Gehan (1965), Breslow (1970). An event time weighs as the number at risk.",
    ),
    "root at risk": WeightWords(
        "early times more, by √n",
        "each event time counts as the root of the number at risk",
        "Tarone–Ware",
        "√n",
        "Tarone & Ware (1977). An event time weighs as the root of the number at risk.",
    ),
    "survival": WeightWords(
        "early times more, by survival",
        "each event time counts as the share still free of the event, whatever the censoring",
        "Peto–Peto",
        "Π (1 − d/(n + 1))",
        "Peto & Peto (1972), in the form of Prentice (1978). An event time weighs as the survival of "
        "all groups together.",
    ),
    "modified survival": WeightWords(
        "early times more, by survival and n/(n + 1)",
        "as by survival, with the last few at risk weighing a little less",
        "modified Peto–Peto",
        "n/(n + 1) Π (1 − d/(n + 1))",
        "Andersen, Borgan, Gill & Keiding (1982). An event time weighs as the survival of all groups "
        "together times n/(n + 1).",
    ),
    "early 1, late 0": WeightWords(
        "early times more, by S",
        "each event time counts as the curve of all groups just before it",
        "early-weighted",
        "S(t−)",
        "Fleming & Harrington (1991) with ρ = 1, γ = 0.",
    ),
    "early 0, late 1": WeightWords(
        "late times more, by 1 − S",
        "most able to find a difference that comes late",
        "late-weighted",
        "1 − S(t−)",
        "Fleming & Harrington (1991) with ρ = 0, γ = 1.",
    ),
    "early 1, late 1": WeightWords(
        "middle times more, by S (1 − S)",
        "most able to find a difference in the middle of follow-up",
        "middle-weighted",
        "S(t−) (1 − S(t−))",
        "Fleming & Harrington (1991) with ρ = γ = 1.",
    ),
}
assert set(WORDS) == {weight.key for weight in WEIGHTS}

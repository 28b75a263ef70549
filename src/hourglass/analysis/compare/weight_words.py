"""What each weight of the test is called, in the sentence, the result, the workings and the report."""

from dataclasses import dataclass

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
        return self.test[0].upper() + self.test[1:]


WORDS: dict[str, WeightWords] = {
    "equal": WeightWords(
        "all times equally",
        "most able to find a ratio of rates that stays the same",
        "log-rank",
        "",
        "Mantel (1966). All event times weigh equally.",
    ),
    "root at risk": WeightWords(
        "early times more, by √n",
        "each event time counts as the root of the number at risk",
        "Tarone–Ware",
        "√n",
        "Tarone & Ware (1977). An event time weighs as the root of the number at risk.",
    ),
}
assert set(WORDS) == {weight.key for weight in WEIGHTS}

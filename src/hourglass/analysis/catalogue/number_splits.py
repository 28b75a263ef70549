"""What a number makes of rows when each variable is tested in turn
(methods.md, section 3: Comparing groups)."""

from dataclasses import dataclass

from hourglass.analysis.catalogue.entry import MethodEntry, catalogue
from hourglass.analysis.shared.naming import plain
from hourglass.core.comparison import number_splits as core


@dataclass(frozen=True, slots=True, kw_only=True)
class NumberSplitEntry(MethodEntry):
    """A way to make something to be tested of a number.

    Attributes:
        labels: of the groups that are drawn, in their order; ``{at}`` stands for the stated threshold.
        drawn: the way whose groups these are, where the test itself has none.
    """

    method: core.NumberSplit
    labels: tuple[str, ...]
    drawn: core.NumberSplit | None = None

    def labels_at(self, threshold: float | None) -> tuple[str, ...]:
        """The labels, the threshold put in where there is one."""
        at = "" if threshold is None else plain(threshold)
        return tuple(label.format(at=at) for label in self.labels)

    def in_words(self, threshold: float | None) -> str:
        """How a number is split: "in tertiles", "at 2300"."""
        return self.name if threshold is None else f"at {plain(threshold)}"


THIRDS = ("lower third", "middle third", "upper third")
NUMBER_SPLITS = catalogue(
    NumberSplitEntry(
        method=core.MEDIAN,
        name="at its median",
        note="two groups of much the same size",
        labels=("up to the median", "above the median"),
    ),
    NumberSplitEntry(
        method=core.TERTILES, name="in tertiles", note="three groups, 2 df", labels=THIRDS
    ),
    NumberSplitEntry(
        method=core.QUARTERS,
        name="in quarters",
        note="four groups, 3 df",
        labels=("lowest quarter", "second quarter", "third quarter", "highest quarter"),
    ),
    NumberSplitEntry(
        method=core.THRESHOLD,
        name="at a threshold",
        note="two groups: up to it, and above",
        labels=("≤ {at}", "> {at}"),
    ),
    NumberSplitEntry(
        method=core.AS_IT_IS,
        name="as it is",
        note="the score test of a hazards model with it alone: no groups, and no weight",
        labels=THIRDS,
        drawn=core.TERTILES,
    ),
    methods=core.NUMBER_SPLITS,
)
TERTILES, THRESHOLD, AS_IT_IS = core.TERTILES.key, core.THRESHOLD.key, core.AS_IT_IS.key

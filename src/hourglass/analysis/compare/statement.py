"""The statement of Compare."""

from collections.abc import Mapping
from typing import Literal, Self

from hourglass.analysis.shared.groups import categories
from hourglass.analysis.shared.statement import Confidence, StageStatement, one_of, renamed
from hourglass.cohort.followup import Cohort
from hourglass.core.comparison.weights import EQUAL, WEIGHTS


class CompareStatement(StageStatement):
    """Survival by the levels of a category, against a reference level.

    ``reference`` asks for another reference level than the column's own; ``contrast`` is the level
    whose difference from the reference is drawn; ``weight`` is the test's.
    """

    upgrades = (renamed(2, level="confidence"),)
    stage: Literal["compare"] = "compare"
    version: Literal[2] = 2
    by: str | None = None
    reference: str | None = None
    contrast: str | None = None
    weight: one_of(w.key for w in WEIGHTS) = EQUAL.key  # type: ignore[valid-type]
    confidence: Confidence = 0.95

    def references(self) -> Mapping[str, str]:
        return {self.by: self.reference} if self.by and self.reference else {}

    def without_references(self) -> Self:
        return self.model_copy(update={"reference": None})


def first_comparison(cohort: Cohort) -> CompareStatement:
    """By the first category there is."""
    named = categories(cohort)
    return CompareStatement(by=named[0] if named else None)

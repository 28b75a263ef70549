"""The statement of Compare."""

from collections.abc import Iterable, Iterator, Mapping
from typing import Annotated, Any, Literal, Self

from pydantic import Field

from hourglass.analysis.catalogue.adjustments import ADJUSTMENTS
from hourglass.analysis.catalogue.number_splits import NUMBER_SPLITS, TERTILES, THRESHOLD
from hourglass.analysis.catalogue.weights import WEIGHTS
from hourglass.analysis.shared.frozen_model import FrozenModel
from hourglass.analysis.shared.grouping import GroupedStatement
from hourglass.analysis.shared.groups import categories
from hourglass.analysis.shared.statement import (
    Confidence,
    level_of_study,
    one_of,
    renamed,
    with_keys_of_the_field,
)
from hourglass.cohort.followup import Cohort
from hourglass.core.comparison.adjustments import HOLM
from hourglass.core.comparison.weights import EQUAL

MIN_MOVED = 2
"""A number that was split at so many thresholds had its threshold moved."""
Pairs = Literal["none", "all", "reference"]
Score = Annotated[float, Field(allow_inf_nan=False)]


class Margin(FrozenModel):
    """How much less may be free of the event at a time, and the group is still not worse."""

    size: Annotated[float, Field(gt=0, lt=1)]
    at: Annotated[float, Field(gt=0, allow_inf_nan=False)]


class ScreenedVariable(FrozenModel):
    """A variable that is tested in turn.

    Attributes:
        column: a category, tested by its levels, or a number.
        split: what a number makes of rows, tertiles where it is blank; ``threshold``: where it is split,
            which goes before that.
    """

    column: Annotated[str, Field(max_length=300)]
    split: one_of(("", *(k for k in NUMBER_SPLITS if k != THRESHOLD))) = ""  # type: ignore[valid-type]
    threshold: Annotated[float, Field(allow_inf_nan=False)] | None = None

    @property
    def way(self) -> str:
        """The key of the way in which a number is split."""
        return THRESHOLD if self.threshold is not None else self.split or TERTILES


class TriedThresholds(FrozenModel):
    """The thresholds at which a number has been split so far, in their order."""

    column: Annotated[str, Field(max_length=300)]
    at: tuple[Score, ...]


class CompareStatement(GroupedStatement):
    """Survival by group, against a reference group.

    Attributes:
        each: whether each variable is tested in turn, in place of one comparison.
        variables: those that are; all candidates where none is stated. ``order``: of what was found.
        contrast: the group whose difference from the reference is drawn.
        weight: the weight of the planned test; ``confidence``: the level of intervals where it is not
            that of the study's curves.
        within: categories whose levels are strata.
        ordered: whether the groups stand in an order; ``scores``: theirs, 1, 2, … when absent.
        pairs: which groups are tested two by two; ``adjustment``: of their p-values.
        margin: of a test of "not worse".
        seed: of what is drawn.
        tried: the single thresholds that have been stated in the study, in whatever view, those that were
            undone among them: a p-value does not count how often a threshold was moved.
    """

    upgrades = (
        renamed(2, level="confidence"),
        renamed(3),
        level_of_study,
        with_keys_of_the_field(5),
    )
    stage: Literal["compare"] = "compare"
    version: Literal[5] = 5
    each: bool = False
    variables: Annotated[tuple[ScreenedVariable, ...], Field(max_length=200)] = ()
    order: Literal["p", "name"] = "p"
    contrast: str | None = None
    weight: one_of(WEIGHTS) = EQUAL.key  # type: ignore[valid-type]
    confidence: Confidence | None = None
    within: Annotated[tuple[str, ...], Field(max_length=3)] = ()
    ordered: bool = False
    scores: Annotated[tuple[Score, ...], Field(max_length=60)] = ()
    pairs: Pairs = "none"
    adjustment: one_of(ADJUSTMENTS) = HOLM.key  # type: ignore[valid-type]
    margin: Margin | None = None
    seed: Annotated[int, Field(ge=0, lt=2**32)] = 1
    tried: tuple[TriedThresholds, ...] = ()

    def columns(self) -> tuple[str, ...]:
        screened = (one.column for one in self.variables) if self.each else ()
        return (*super().columns(), *self.within, *screened)

    def informed_by(self, earlier: Iterable[Mapping[str, Any]]) -> Self:
        found: dict[str, set[float]] = {}
        for body in (*earlier, self.model_dump(mode="json")):
            for column, threshold in _single_thresholds(body):
                found.setdefault(column, set()).add(threshold)
        tried = [TriedThresholds(column=name, at=tuple(sorted(at))) for name, at in found.items()]
        return self.model_copy(update={"tried": tuple(tried)})

    def tried_of(self, column: str | None) -> int:
        """At how many single thresholds a number has been split so far."""
        return next((len(one.at) for one in self.tried if one.column == column), 0)

    def references(self) -> Mapping[str, str]:
        return {self.by: self.reference} if self.by and self.reference else {}

    def levels(self) -> tuple[tuple[str, str], ...]:
        if self.by is None or self.crossed is not None or self.thresholds:
            return ()  # the groups have names of their own
        return tuple((self.by, level) for level in (self.reference, self.contrast) if level)

    def with_levels_named(self, column: str, names: Mapping[str, str]) -> Self:
        named = super().with_levels_named(column, names)
        if self.contrast is None:
            return named
        contrast = self.group_named(self.contrast, column, names)
        return named.model_copy(update={"contrast": contrast})

    def without_references(self) -> Self:
        return self.model_copy(update={"reference": None})


def _single_thresholds(body: Mapping[str, Any]) -> Iterator[tuple[str, float]]:
    """The single thresholds that a statement, as JSON, splits numbers at."""
    thresholds = list(body.get("thresholds") or [])
    if body.get("by") is not None and len(thresholds) == 1:
        yield body["by"], thresholds[0]
    for one in body.get("variables") or ():
        if one.get("threshold") is not None:
            yield one["column"], one["threshold"]


def first_comparison(cohort: Cohort) -> CompareStatement:
    """By the first category there is."""
    named = categories(cohort)
    return CompareStatement(by=named[0] if named else None)

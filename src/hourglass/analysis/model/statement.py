"""The statement of Model, and the terms it is made of."""

from collections.abc import Mapping
from typing import Annotated, Literal, Self, TypeAlias

from pydantic import Field

from hourglass.analysis.shared.statement import Confidence, StageStatement, renamed
from hourglass.analysis.shared.typed import Typed


class CategoryTerm(Typed):
    """A category, each level compared with the reference: the column's own where none is asked for."""

    kind: Literal["category"] = "category"
    column: str
    reference: str = ""


class NumberTerm(Typed):
    """A number; its ratio is told per ``unit``."""

    kind: Literal["number"] = "number"
    column: str
    unit: Annotated[float, Field(gt=0, allow_inf_nan=False)] = 1.0


class DoublingTerm(Typed):
    """A positive number on the log scale; its ratio is told per doubling."""

    kind: Literal["doubling"] = "doubling"
    column: str


Term: TypeAlias = Annotated[CategoryTerm | NumberTerm | DoublingTerm, Field(discriminator="kind")]


class ModelStatement(StageStatement):
    """The rate of the event by several terms; ``confidence`` is the level of intervals."""

    upgrades = (renamed(2, level="confidence"),)
    stage: Literal["model"] = "model"
    version: Literal[2] = 2
    terms: Annotated[tuple[Term, ...], Field(max_length=40)] = ()
    confidence: Confidence = 0.95

    def references(self) -> Mapping[str, str]:
        return {
            t.column: t.reference for t in self.terms if isinstance(t, CategoryTerm) and t.reference
        }

    def without_references(self) -> Self:
        terms = tuple(
            t.model_copy(update={"reference": ""}) if isinstance(t, CategoryTerm) else t
            for t in self.terms
        )
        return self.model_copy(update={"terms": terms})

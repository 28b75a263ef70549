"""The statements of the later stages: analyses as data, with a version and a schema."""

from typing import Annotated, Literal, TypeAlias

from pydantic import Field

from hourglass.analysis.typed import Typed
from hourglass.core.regression.proportionality import Clock

Level = Annotated[float, Field(gt=0.5, lt=1)]
Times = Annotated[tuple[Annotated[float, Field(ge=0)], ...], Field(max_length=12)]
Piece = Literal["rows", "follow-up", "groups", "curves", "ratios", "checks", "decisions"]
PIECES: tuple[Piece, ...] = (
    "rows",
    "follow-up",
    "groups",
    "curves",
    "ratios",
    "checks",
    "decisions",
)


class EstimateStatement(Typed):
    """Survival of everyone."""

    stage: Literal["estimate"] = "estimate"
    version: Literal[1] = 1
    level: Level = 0.95
    times: Times = ()


class CompareStatement(Typed):
    """Survival by the levels of a category, against a reference level.

    ``reference`` asks for another reference level than the column's own; ``contrast`` is the level
    whose difference from the reference is drawn.
    """

    stage: Literal["compare"] = "compare"
    version: Literal[1] = 1
    by: str | None = None
    reference: str | None = None
    contrast: str | None = None
    level: Level = 0.95


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


class ModelStatement(Typed):
    """The rate of the event by several terms."""

    stage: Literal["model"] = "model"
    version: Literal[1] = 1
    terms: Annotated[tuple[Term, ...], Field(max_length=40)] = ()
    level: Level = 0.95


class CheckStatement(Typed):
    """Whether each ratio of the model stays the same over time."""

    stage: Literal["check"] = "check"
    version: Literal[1] = 1
    clock: Clock = "one minus survival"


class ReportStatement(Typed):
    """Which pieces the report holds, and its title."""

    stage: Literal["report"] = "report"
    version: Literal[1] = 1
    title: Annotated[str, Field(max_length=200)] = ""
    pieces: tuple[Piece, ...] = PIECES


Statement: TypeAlias = Annotated[
    EstimateStatement | CompareStatement | ModelStatement | CheckStatement | ReportStatement,
    Field(discriminator="stage"),
]
Stage = Literal["prepare", "estimate", "compare", "model", "check", "report"]
STAGES: tuple[Stage, ...] = ("prepare", "estimate", "compare", "model", "check", "report")

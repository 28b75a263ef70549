"""A kept model of one study applied to another, as work."""

from dataclasses import dataclass

from hourglass.analysis.applied.readouts import AppliedResult, applied_result
from hourglass.analysis.model.statement import HazardsModel, ModelStatement
from hourglass.core.errors import HourglassError
from hourglass.core.progress import ProgressCallback
from hourglass.study.source import Source
from hourglass.study.tasks import formed
from hourglass.study.turns import Turn


class NoSuchModelError(HourglassError):
    """The study keeps no model of that letter."""


def model_of(statement: ModelStatement, letter: str) -> HazardsModel:
    """The kept model of a letter, or without one that which is shown.

    Raises:
        NoSuchModelError: when none of that letter is kept.
    """
    if not letter:
        return statement.hazards_model
    kept = next((one for one in statement.kept if one.letter == letter), None)
    if kept is None:
        raise NoSuchModelError(f"No model {letter} is kept.")
    return kept.model


@dataclass(frozen=True, slots=True)
class RunApplied:
    """Apply a model of a study to the rows of another; both cohorts must be formed."""

    own: Source
    other: Source
    model: HazardsModel
    time: float | None

    @property
    def turn(self) -> Turn:
        """Its turn."""
        return self.own.turn()

    def __call__(self, progress: ProgressCallback) -> AppliedResult:
        return applied_result(formed(self.own), self.model, formed(self.other), self.time, progress)

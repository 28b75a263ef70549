"""What the pages of a study are called."""

from hourglass.analysis.shared.stage import Stages
from hourglass.study.actions.action import PREPARE


def stage_titles(stages: Stages) -> dict[str, str]:
    """The titles of Prepare and of the stages, by their names, in working order."""
    return {PREPARE: "Prepare", **{stage.name: stage.title for stage in stages}}

"""What is left to decide where steps could not be carried out."""

from collections.abc import Sequence

from hourglass.cohort.derive import Blocker
from hourglass.cohort.steps.apply import StepEffect


def broken_blocks(effects: Sequence[StepEffect]) -> list[Blocker]:
    """A block for every step that could not be carried out: nothing is shown as if it had been."""
    return [
        Blocker(
            f"The step “{effect.name}” cannot be carried out: {effect.broken}. Mend it, switch it "
            "off or remove it.",
            None,
        )
        for effect in effects
        if effect.broken
    ]

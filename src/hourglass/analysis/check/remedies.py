"""What could be done about a term whose ratio changes."""

from hourglass.analysis.check.readings import TermCheck
from hourglass.analysis.compare.statement import CompareStatement
from hourglass.analysis.shared.sections import Action


def remedies(term: TermCheck, *, category: bool) -> list[Action]:
    """Keep one ratio, with a reason; for a category, curves; or see the model without it."""
    found = [
        Action(
            sentence=f"Keep one ratio for {term.label}, and report it as an average over the "
            "follow-up of this study.",
            label="Keep, with a reason",
            do="decide",
            stage="check",
            about=f"not proportional: {term.label}",
        )
    ]
    if category:
        found.append(
            Action(
                sentence=f"Show the curves by {term.name}, which assume nothing about the ratio.",
                label=f"Compare by {term.name}",
                do="state",
                stage="compare",
                statement=CompareStatement(by=term.name).model_dump(mode="json"),
            )
        )
    found.append(
        Action(
            sentence=f"If {term.name} is there only to adjust for, see in Model whether the other "
            "ratios stay as they are without it.",
            label="Open Model",
            do="open",
            stage="model",
        )
    )
    return found

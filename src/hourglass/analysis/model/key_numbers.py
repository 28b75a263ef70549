"""What of a model is set beside that of another data extract."""

from hourglass.analysis.model.result import ModelResult
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.key_numbers import KeyNumber


def key_numbers(result: ModelResult) -> tuple[KeyNumber, ...]:
    """Each adjusted hazard ratio with its limits, and its p."""
    found = []
    for term in result.terms:
        for c in term.coefficients:
            name = f"{term.name}: {c.label}" if term.headed else term.name
            found.append(KeyNumber(f"hazard ratio, {name}", c.adjusted.worded))
            found.append(KeyNumber(f"p, {name}", formatting.p_value(c.adjusted.p)))
    return tuple(found)

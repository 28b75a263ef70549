"""How values are written in the names of groups, terms and columns, which numbers carry with them."""

from hourglass.cohort.statement import FollowUpStatement
from hourglass.cohort.words import MINUS, grouped

UNNAMED_EVENT = FollowUpStatement.model_fields["event_name"].default


def plain(value: float) -> str:
    """A number without needless zeros: 12, 0.5."""
    return f"{value:.10g}".replace("-", MINUS, 1) if value < 0 else f"{value:.10g}"


def listed(words: list[str], joint: str = "and") -> str:
    """ "a", "a and b", "a, b and c"; or with another word before the last."""
    if len(words) < 2:
        return "".join(words)
    return ", ".join(words[:-1]) + f" {joint} " + words[-1]


def level_percent(confidence: float) -> str:
    """ "95%"."""
    return f"{plain(100 * confidence)}%"


def counted(n: int, one: str, several: str) -> str:
    """So many things: "1 level", "12 levels"."""
    return f"{grouped(n)} {one if n == 1 else several}"


def free_of(event: str) -> str:
    """What a survival curve shows: "Free of rejection", or "Survival" where the event has no name."""
    return "Survival" if event == UNNAMED_EVENT else f"Free of {event}"

"""The names under which the tracks and the printed figure of a view are kept."""

FIRST = "A"
"""The letter of the first view of every stage."""


def view_key(stage: str, letter: str) -> str:
    """Under this name the tracks of a view, and how its figure is printed, are kept."""
    return stage if letter in {"", FIRST} else f"{stage} {letter}"


def stage_of_view(key: str) -> str:
    """The stage of a view by its key."""
    return key.partition(" ")[0]

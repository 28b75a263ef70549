"""Groups as a figure distinguishes them."""

from hourglass.analysis.shared.figure.description import FigureGroup, Level
from hourglass.analysis.shared.groups import Groups
from hourglass.analysis.shared.ink import INK

EVERYONE = "all subjects"
"""The key of the one curve of everyone; that of a group holds a colon."""


def everyone(label: str) -> list[FigureGroup]:
    """The one curve of all subjects, as a group whose tone and dash can be chosen."""
    return [FigureGroup(key=EVERYONE, label=label, tone=INK)]


def figure_groups(groups: Groups) -> list[FigureGroup]:
    """Each group with its tone, and the levels that it is made of."""
    levels = groups.levels or ((),) * len(groups.labels)
    return [
        FigureGroup(
            key=f"{groups.column}: {label}",
            label=label,
            tone=groups.tone(k),
            levels=[Level(column=column, level=level) for column, level in made_of],
        )
        for k, (label, made_of) in enumerate(zip(groups.labels, levels, strict=True))
    ]

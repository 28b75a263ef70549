"""What findings can do: leave no curve, change every one, groups and models, or nothing that is counted."""

from enum import IntEnum

from hourglass.cohort.findings.finding import Finding


class Gravity(IntEnum):
    """What a wrong answer would change, the worst first."""

    BLOCKS = 0
    CURVE = 1
    GROUPS = 2
    NOTED = 3


BLOCKING = frozenset({
    "blank outcome", "end before start", "entry after end", "no count", "no end", "no start", "no time",
    "no rows of the table", "start after closing", "unknown code",
})  # fmt: skip
"""Until these are decided there is no curve."""
ON_THE_CURVE = frozenset({
    "after closing", "before birth", "censored with a date", "counts as events", "dates as numbers",
    "dates in text", "disagrees", "either order", "entered twice", "event after closing",
    "event after last contact", "event without a date", "few subjects",
    "outcome in two columns", "everyone had the event", "followed after the event",
    "gaps between rows", "heaped times", "in the future", "midnights", "dates as text",
    "inspections", "marks in times",
    "colons in times", "two ends in cells", "filled once", "mended", "not all dates",
    "numbers as text", "overlapping rows", "placeholder", "possibly reversed", "repeated rows",
    "several dates", "several events", "some time zones", "still at risk at the end", "two formats",
    "units in cells", "weights", "which is the event", "zero time",
})  # fmt: skip
ON_GROUPS = frozenset({
    "code for missing", "extreme", "impossible", "known late", "no events", "spelled in several ways",
    "tells the outcome", "tells the time",
})  # fmt: skip
"""Kinds of findings by what they bear on; all others are noted."""


def gravity_of(finding: Finding) -> Gravity:
    """What a finding bears on."""
    kind = finding.key.partition(": ")[0]
    if kind in BLOCKING:
        return Gravity.BLOCKS
    if kind in ON_THE_CURVE:
        return Gravity.CURVE
    return Gravity.GROUPS if kind in ON_GROUPS else Gravity.NOTED

"""What findings can do: to every curve, to groups and models, or to nothing that is counted."""

from enum import IntEnum

from hourglass.cohort.findings.finding import Finding


class Gravity(IntEnum):
    """What a wrong answer would change, the worst first."""

    CURVE = 0
    GROUPS = 1
    NOTED = 2


ON_THE_CURVE = frozenset({
    "after closing", "before birth", "blank outcome", "counts as events", "dates as numbers", "disagrees",
    "either order", "end before start", "entered twice", "entry after end", "event after closing",
    "event after last contact", "everyone had the event", "followed after the event", "gaps between rows",
    "heaped times", "in the future", "inspections", "mended", "no count", "no end", "no start", "no time",
    "not all dates", "overlapping rows", "placeholder", "possibly reversed", "repeated rows", "several dates",
    "several events", "some time zones", "start after closing", "still at risk at the end", "two formats",
    "unknown code", "weights", "which is the event", "zero time", "censored with a date",
    "event without a date", "numbers as text", "units in cells", "dates in text",
})  # fmt: skip
ON_GROUPS = frozenset({
    "code for missing", "extreme", "impossible", "known late", "no events", "spelled in several ways",
    "tells the outcome", "tells the time",
})  # fmt: skip
"""Kinds of findings by what they bear on; all others are noted."""


def gravity_of(finding: Finding) -> Gravity:
    """What a finding bears on."""
    kind = finding.key.partition(": ")[0]
    if kind in ON_THE_CURVE:
        return Gravity.CURVE
    return Gravity.GROUPS if kind in ON_GROUPS else Gravity.NOTED

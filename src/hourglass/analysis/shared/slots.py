"""Slots that several sentences share."""

from collections.abc import Sequence

from hourglass.analysis.shared import wording
from hourglass.analysis.shared.sentence import Entry, Option, Slot

CONFIDENCES = (0.9, 0.95, 0.99)


def confidence_slot(confidence: float) -> Slot:
    """The level of intervals."""
    options = [
        Option(
            label=wording.level_percent(value),
            note=f"covers the truth in {wording.plain(100 * value)} of 100 studies like this one",
            field="confidence",
            value=value,
            chosen=value == confidence,
        )
        for value in CONFIDENCES
    ]
    return Slot(
        id="confidence",
        label=wording.level_percent(confidence),
        title="Level of intervals",
        options=options,
    )


def taken_out(field: str, chosen: Sequence[str]) -> list[Option]:
    """A choice for each chosen name: the others stay."""
    return [
        Option(label=f"{name}, no more", field=field, value=[one for one in chosen if one != name])
        for name in chosen
    ]


def times_slot(times: tuple[float, ...], unit: str) -> Slot:
    """Chosen times."""
    written = [wording.plain(t) for t in times]
    return Slot(
        id="times",
        label=wording.listed(written) or "no chosen times",
        title="Times to read the curve at",
        entry=Entry(
            kind="times", field="times", label=f"Times, in {unit}", value=", ".join(written)
        ),
    )

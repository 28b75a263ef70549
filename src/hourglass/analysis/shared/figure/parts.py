"""The parts of tracks that can be switched on and off, by the name that their marks bear."""

from collections.abc import Iterable, Mapping, Sequence
from types import MappingProxyType
from typing import TypeVar

from hourglass.analysis.shared.figure.description import TrackPart
from hourglass.analysis.shared.figure.marks import AnyMark, Mark

CURVE, LIMITS, POINTWISE, BAND = "curve", "limits", "pointwise", "difference-band"
CENSORED, QUARTILES, OTHERS = "censored", "quartiles", "other-groups"
LABELS = {
    CURVE: "Curves",
    LIMITS: "Limits",
    POINTWISE: "Pointwise limits inside the band",
    BAND: "Difference band",
    CENSORED: "Censored",
    QUARTILES: "Quartiles of time to event",
    OTHERS: "Other groups behind each",
}
NOTES = {CENSORED: "Ticks: censored.", QUARTILES: "Rings: quartiles of time to event."}

M = TypeVar("M", bound=Mark)


def as_part(part: str, marks: Iterable[M]) -> list[M]:
    """The marks as a part of their track."""
    return [mark.model_copy(update={"part": part}) for mark in marks]


def parts_of(
    marks: Sequence[AnyMark],
    notes: Mapping[str, str] = MappingProxyType({}),
    off: Sequence[str] = (),
) -> list[TrackPart]:
    """The parts that some marks name, in the order of ``LABELS``.

    Args:
        notes: how to read them, by name, where ``NOTES`` does not have it.
        off: those that are not drawn until somebody switches them on.
    """
    there = {mark.part for mark in marks}
    return [
        TrackPart(
            id=part, label=label, note=notes.get(part, NOTES.get(part, "")), shown=part not in off
        )
        for part, label in LABELS.items()
        if part in there
    ]

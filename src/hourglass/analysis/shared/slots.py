"""Slots that several sentences share."""

from collections.abc import Mapping, Sequence

from pydantic import JsonValue

from hourglass.analysis.catalogue.entry import MethodEntry
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.sentence import Entry, Option, Slot

CONFIDENCES = (0.9, 0.95, 0.99)


def confidence_slot(confidence: float) -> Slot:
    """The level of intervals."""
    options = [
        Option(
            label=formatting.level_percent(value),
            note=f"covers the truth in {formatting.plain(100 * value)} of 100 studies like this one",
            field="confidence",
            value=value,
            chosen=value == confidence,
        )
        for value in CONFIDENCES
    ]
    return Slot(
        id="confidence",
        label=formatting.level_percent(confidence),
        title="Level of intervals",
        options=options,
    )


def level_slot(stated: float | None, of_study: float) -> Slot:
    """The level of intervals where it is that of the study's curves unless another is stated."""
    own = confidence_slot(of_study if stated is None else stated)
    usual = formatting.level_percent(of_study)
    follows = Option(
        label=f"as in Estimate ({usual})",
        note="one level throughout the study",
        field="confidence",
        value=None,
        chosen=stated is None,
    )
    otherwise = stated is not None and stated != of_study
    others = [o.model_copy(update={"chosen": o.value == stated}) for o in own.options]
    return own.model_copy(
        update={
            "label": f"{own.label} (in Estimate {usual})" if otherwise else own.label,
            "options": [follows, *others],
        }
    )


def taken_in_or_out(name: str, field: str, value: JsonValue, note: str, *, inside: bool) -> Option:
    """A choice that takes a name into a list, with a note on what that would do, or out of it again."""
    return Option(
        label=name, note="take out" if inside else note, field=field, value=value, chosen=inside
    )


def taken_out(field: str, chosen: Sequence[str]) -> list[Option]:
    """A choice for each chosen name: the others stay."""
    return [
        Option(label=f"{name}, no more", field=field, value=[one for one in chosen if one != name])
        for name in chosen
    ]


def method_slot(field: str, title: str, entries: Mapping[str, MethodEntry], chosen: str) -> Slot:
    """One of the catalogue's methods of a kind."""
    return Slot(
        id=field.replace("_", "-"),
        label=entries[chosen].name,
        title=title,
        options=[
            Option(label=one.name, note=one.note, field=field, value=key, chosen=key == chosen)
            for key, one in entries.items()
        ],
    )


def times_slot(times: tuple[float, ...], unit: str) -> Slot:
    """Chosen times."""
    written = [formatting.plain(t) for t in times]
    return Slot(
        id="times",
        label=formatting.listed(written) or "no chosen times",
        title="Times to read the curve at",
        entry=Entry(
            kind="times", field="times", label=f"Times, in {unit}", value=", ".join(written)
        ),
    )

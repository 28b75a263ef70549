"""What the form of a step is: a sentence with places to fill, the same for every reader of it."""

from collections.abc import Sequence
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field, JsonValue

At = Literal[
    "column", "columns", "text", "number", "points", "words", "choice", "condition", "levels",
    "order", "level", "formula", "pairs",
]  # fmt: skip


class _FrozenModel(BaseModel):
    model_config = ConfigDict(
        frozen=True, extra="forbid", json_schema_serialization_defaults_required=True
    )


class Choosable(_FrozenModel):
    """A value that a place can take, and its words."""

    value: JsonValue
    words: str


class Place(_FrozenModel):
    """A place in the sentence of a step.

    Attributes:
        at: what is filled in; ``field``: of the step; ``label``: what it is called.
        of: the kinds of columns that fit; all where empty.
        options: what can be chosen.
        wide: for longer texts; ``optional``: whether it may stay blank.
    """

    at: At
    field: str
    label: str
    of: tuple[str, ...] = ()
    options: tuple[Choosable, ...] = ()
    wide: bool = False
    optional: bool = False


class FormPart(_FrozenModel):
    """Words, or a place; with ``when``, only while the step's fields have those values."""

    words: str = ""
    place: Place | None = None
    when: dict[str, JsonValue] = Field(default_factory=dict)


class StepForm(_FrozenModel):
    """A kind of step that can be written by hand.

    Attributes:
        kind, title: which it is; ``about``: what it is for.
        start: the step before anything is filled in.
        parts: its sentence.
    """

    kind: str
    title: str
    about: str
    start: dict[str, JsonValue]
    parts: tuple[FormPart, ...]


def column(label: str, of: tuple[str, ...] = (), field: str = "column", **more: Any) -> Place:
    """A place for a column."""
    return Place(at="column", field=field, label=label, of=of, **more)


def place(at: At, field: str, label: str, **more: Any) -> Place:
    """A place for something typed or picked."""
    return Place(at=at, field=field, label=label, **more)


def choice(field: str, label: str, **words: str) -> Place:
    """A place for one of some words."""
    options = tuple(Choosable(value=value, words=text) for value, text in words.items())
    return Place(at="choice", field=field, label=label, options=options)


def choices(field: str, label: str, *pairs: tuple[JsonValue, str]) -> Place:
    """A place for one of some values, each with its words."""
    options = tuple(Choosable(value=value, words=text) for value, text in pairs)
    return Place(at="choice", field=field, label=label, options=options)


def only(part: str | Place, **when: JsonValue) -> FormPart:
    """A part that is there while a field has a value."""
    made = part_of(part)
    return made.model_copy(update={"when": when})


def part_of(part: str | Place | FormPart) -> FormPart:
    """A part of the sentence."""
    if isinstance(part, FormPart):
        return part
    return FormPart(words=part) if isinstance(part, str) else FormPart(place=part)


def form(
    kind: str,
    title: str,
    about: str,
    start: dict[str, JsonValue],
    parts: Sequence[str | Place | FormPart],
) -> StepForm:
    """The form of a kind of step."""
    return StepForm(
        kind=kind,
        title=title,
        about=about,
        start={"kind": kind, **start},
        parts=tuple(part_of(one) for one in parts),
    )

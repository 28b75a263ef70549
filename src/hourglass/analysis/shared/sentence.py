"""A statement as a sentence: words and slots, one source for screen, report and saved form."""

from typing import Literal

from pydantic import Field, JsonValue

from hourglass.analysis.shared.frozen_model import FrozenModel, Values


class Option(FrozenModel):
    """One thing that a slot can hold: choosing it sets ``field`` (a dotted path) to ``value``.

    With an empty ``field`` the value holds several fields, all of which are set. One that ``adds``
    puts its value after what the list in ``field`` holds by then, so that two made at once are both there.

    ``note`` is the preview: counts, or what the choice would do.
    """

    label: str
    note: str = ""
    field: str
    value: JsonValue
    chosen: bool = False
    adds: bool = False


class Entry(FrozenModel):
    """A value to be typed into a slot.

    ``kind`` states how it is read: a number is above 0 and a value any number, numbers are set in order,
    scores are left as they are written, and a pair is a margin, in percentage points, and a time.
    """

    kind: Literal["text", "number", "value", "numbers", "scores", "pair", "times", "date"]
    field: str
    label: str
    value: str


class Spread(FrozenModel):
    """How a number is spread, with the thresholds that are dragged on it: they go into ``field``."""

    field: str
    edges: Values
    heights: Values
    at: list[float]
    decimals: int


class SmallShape(FrozenModel):
    """A small picture of a curve: places as shares of its width and height; ``label`` states what it is."""

    label: str
    x: list[float]
    y: list[float]


class CodeRow(FrozenModel):
    """A code of the outcome column with its count, to be given a meaning.

    ``spellings`` are the ways it is written, where there are several; ``proposed`` is what it
    probably means, for a person to confirm.
    """

    code: str
    count: int
    spellings: list[str] = Field(default_factory=list)
    proposed: Literal["event", "censored"] | None = None
    because: str = ""
    meaning: Literal["event", "censored", "competing", "set aside"] | None
    name: str


class Slot(FrozenModel):
    """A marked word of the sentence.

    ``state`` is "filled", "open" (must be filled before anything can be shown) or "add" (an
    optional part not yet there).
    """

    id: str
    label: str
    title: str
    state: Literal["filled", "open", "add"] = "filled"
    options: list[Option] = Field(default_factory=list)
    entry: Entry | None = None
    spread: Spread | None = None
    shape: SmallShape | None = None
    codes: list[CodeRow] = Field(default_factory=list)


class SentencePart(FrozenModel):
    """Words, or a slot."""

    words: str = ""
    slot: Slot | None = None


class Sentence(FrozenModel):
    """The sentence: ``text`` is how it reads, without the parts that could still be added."""

    parts: list[SentencePart]
    text: str


def sentence(*parts: str | Slot) -> Sentence:
    """Put words and slots together."""
    text = "".join(
        part if isinstance(part, str) else ("" if part.state == "add" else part.label)
        for part in parts
    )
    return Sentence(
        parts=[
            SentencePart(words=p) if isinstance(p, str) else SentencePart(slot=p) for p in parts
        ],
        text=" ".join(text.split()).replace(" .", ".").replace(" ,", ","),
    )

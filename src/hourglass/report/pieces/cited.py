"""Sentences of the report, each with the stages whose results its numbers come from."""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class CitedSentence:
    """A sentence, or several that belong together.

    Attributes:
        stages: those whose results it rests on, empty for none; None for those of its piece.
    """

    text: str
    stages: tuple[str, ...] | None = None


Paragraph = tuple[CitedSentence, ...]
"""Sentences that are printed one after the other."""


def paragraph(*texts: str) -> Paragraph:
    """A paragraph that rests on the stages of its piece."""
    return tuple(CitedSentence(text) for text in texts if text)


def text_of(made: Paragraph) -> str:
    """A paragraph as it is printed."""
    return " ".join(one.text for one in made)

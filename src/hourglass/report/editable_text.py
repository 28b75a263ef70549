"""Words of the report: as they are made from the results, or as somebody wrote them instead."""

import re
from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Annotated

from pydantic import Field

from hourglass.analysis.shared.frozen_model import FrozenModel
from hourglass.report.pieces.cited import Paragraph, text_of

NUMBER = re.compile(r"\d+(?:[.,\u202f]\d+)*")
MAX_WORDS = 20_000


class Edited(FrozenModel):
    """Words that stand in the place of those that were made; ``was`` are these, when it was written."""

    text: Annotated[str, Field(max_length=MAX_WORDS)]
    was: Annotated[str, Field(max_length=MAX_WORDS)]


@dataclass(frozen=True, slots=True, kw_only=True)
class EditableText:
    """Words with their place in the report.

    Attributes:
        key: "piece/place", by which they are edited.
        text: as they are read; ``made``: as the results word them now.
        edited: whether somebody wrote them.
        changed: numbers that they quote and that the results no longer show.
        otherwise: whether the words around the numbers have changed since they were written.
        sentences: those that the results make of a paragraph; empty for words that somebody wrote.
    """

    key: str
    text: str
    made: str
    edited: bool = False
    changed: tuple[str, ...] = ()
    otherwise: bool = False
    sentences: Paragraph = ()

    @property
    def in_doubt(self) -> bool:
        """Whether somebody must read them again."""
        return bool(self.changed) or self.otherwise


def editable_text(key: str, made: str, edits: Mapping[str, Edited]) -> EditableText:
    """Words as they were edited, if they were."""
    edit = edits.get(key)
    if edit is None:
        return EditableText(key=key, text=made, made=made)
    then, now = NUMBER.findall(edit.was), set(NUMBER.findall(made))
    quoted = set(NUMBER.findall(edit.text))
    changed = tuple(dict.fromkeys(n for n in then if n in quoted and n not in now))
    return EditableText(
        key=key,
        text=edit.text,
        made=made,
        edited=True,
        changed=changed,
        otherwise=_words(edit.was) != _words(made),
    )


def editable_paragraph(key: str, made: Paragraph, edits: Mapping[str, Edited]) -> EditableText:
    """A paragraph as it was edited, if it was; else with the sentences that it is made of."""
    one = editable_text(key, text_of(made), edits)
    return one if one.edited else replace(one, sentences=made)


def _words(text: str) -> str:
    return NUMBER.sub("0", text)

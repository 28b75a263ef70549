"""The views of a stage: the letter of each, and what it is called until somebody names it."""

from collections.abc import Mapping, Sequence
from typing import Any

from hourglass.analysis.shared.field_words import Words, changed_fields, words_of
from hourglass.analysis.shared.statement import StageStatement
from hourglass.study.study import Analysis, Study
from hourglass.study.view_keys import FIRST

LETTERS = "ABCDEFGHIJKLMNOPQRSTUVWXYZ"
MAX_NAMED = 3
"""Fields that the name of a view consists of, at most."""


def letters(study: Study, stage: str) -> dict[int, str]:
    """The letter of each analysis of a stage, which it keeps for ever.

    The first of the stage is A, also after it was deleted; every other has the next one from the day on
    which it was begun.
    """
    begun = sorted(a.id for a in study.looked_at if a.stage == stage and a.begun and a.id)
    first = [a.id for a in study.looked_at if a.stage == stage and not a.begun and a.id]
    return {**dict.fromkeys(first, FIRST), **{id: _letter(k + 1) for k, id in enumerate(begun)}}


def _letter(place: int) -> str:
    """A to Z, then AA, AB and so on."""
    before, last = divmod(place, len(LETTERS))
    return (_letter(before - 1) if before else "") + LETTERS[last]


def titles_of_views(
    views: Sequence[Analysis], statements: Sequence[StageStatement], words: Words
) -> list[str]:
    """What the views of a stage are called, from their statements in effect, in the same order."""
    bodies = [one.model_dump(mode="json") for one in statements]
    return names_of_views([one.name for one in views], bodies, words)


def names_of_views(
    names: Sequence[str], bodies: Sequence[Mapping[str, Any]], words: Words
) -> list[str]:
    """What views are called: as somebody named them, else by what they state that others do not.

    Args:
        names: given ones, blank where nobody gave one.
        bodies: their statements as JSON.
        words: of the fields of these statements.

    Returns:
        one for each; blank for a view that states what all others do.
    """
    differing = list(
        dict.fromkeys(n for body in bodies[1:] for n in changed_fields(bodies[0], body))
    )
    order = [*(n for n in words if n in differing), *(n for n in differing if n not in words)]
    return [
        name or _by_fields(body, order[:MAX_NAMED], words)
        for name, body in zip(names, bodies, strict=True)
    ]


def _by_fields(body: Mapping[str, Any], fields: Sequence[str], words: Words) -> str:
    found: list[str] = []
    for field in fields:
        own = words_of(field, words)
        if value := own.value(body.get(field)):
            title = f"{own.title[:1].lower()}{own.title[1:]}" if found else own.title
            found.append(f"{title} {value}")
    return ", ".join(found)

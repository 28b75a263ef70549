"""Words that were read as missing, and could be values of their column after all."""

import re
from collections.abc import Mapping

from hourglass.cohort.findings.finding import Choice
from hourglass.cohort.steps.cells import GiveBack
from hourglass.cohort.table import Column, DateColumn, NumberColumn
from hourglass.cohort.words import grouped

NUMBER = re.compile(r"^[+-]?\d+(\.\d+)?$")
MAX_GIVEN_BACK = 4


def listed_words(words: Mapping[str, int]) -> str:
    """Words read as missing, each with how often it stands there."""
    shown = [f"“{word}” in {grouped(n)}" for word, n in list(words.items())[:MAX_GIVEN_BACK]]
    more = len(words) - len(shown)
    return ", ".join(shown) + (f" and {more} more words" if more > 0 else "")


def give_back(column: Column, words: Mapping[str, int]) -> tuple[Choice, ...]:
    """For each word read as missing that could be a value of the column: take it for one."""
    made = []
    for word in list(words)[:MAX_GIVEN_BACK]:
        step = GiveBack(column=column.name, words=(word,))
        if isinstance(column, DateColumn) or (
            isinstance(column, NumberColumn) and not NUMBER.match(word)
        ):
            continue
        label = f"“{word}” is a value"
        made.append(
            Choice(
                name=f"give back {word}",
                label=label,
                done=f"“{word}” taken for a value",
                steps=(step,),
            )
        )
    return tuple(made)

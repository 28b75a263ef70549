"""A question put to a model: its words, its verdict, and what is shown of it."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Generic, TypeVar

from hourglass.analysis.check.checked import Checked
from hourglass.analysis.check.statement import CheckStatement
from hourglass.analysis.model.statement import ModelStatement
from hourglass.analysis.shared.figure.description import Track
from hourglass.analysis.shared.numbers import Refused
from hourglass.analysis.shared.sections import Section
from hourglass.analysis.shared.sentence import Slot
from hourglass.analysis.shared.verdict import Verdict
from hourglass.cohort.followup import Cohort

N = TypeVar("N")


@dataclass(frozen=True, slots=True)
class WordedVerdict:
    """A verdict, and what it rests on."""

    verdict: Verdict
    words: str


def not_weighed(refused: Refused) -> WordedVerdict:
    """The verdict where what it rests on is not known."""
    return WordedVerdict("unknown", refused.why)


@dataclass(frozen=True, slots=True)
class Answer:
    """What is shown of a question.

    Attributes:
        tracks: over time where ``timed``; else with axes of their own.
    """

    tracks: list[Track]
    sections: list[Section]
    note: str = ""
    timed: bool = False


@dataclass(frozen=True, slots=True)
class Question(Generic[N]):
    """A question put to a model.

    Attributes:
        key: what it is called in a statement.
        name: what is checked, in the field's term; it stands within a sentence.
        words_of: the statement in words and slots, after "Check {name}: ".
        verdict: from what it rests on (:data:`~hourglass.analysis.check.weighed.WEIGHED`), or why there is
            nothing; ``answer``: what is shown of it.
    """

    key: str
    name: str
    words_of: Callable[[Cohort, ModelStatement, CheckStatement], list[str | Slot]]
    verdict: Callable[[Checked, N], WordedVerdict]
    answer: Callable[[Checked, N], Answer]

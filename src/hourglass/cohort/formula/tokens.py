"""Dividing a formula into words, each knowing where it stands."""

import re
from dataclasses import dataclass
from typing import Literal

from hourglass.cohort.words import grouped
from hourglass.core.errors import HourglassError

MAX_FORMULA_CHARACTERS = 2_000
KEYWORDS = frozenset({"if", "then", "else", "and", "or", "not", "is", "missing", "present", "in"})
TOKEN = re.compile(
    r"""(?P<space>\s+)
    |(?P<number>(\d+\.?\d*|\.\d+)([eE][+-]?\d{1,3})?)
    |(?P<text>"[^"]*"|“[^”]*”)
    |(?P<column>\[[^\]]*\])
    |(?P<word>[^\W\d]\w*)
    |(?P<mark><=|>=|!=|<>|[-+*/^(),=<>≤≥≠×÷−])""",
    re.VERBOSE,
)
Kind = Literal["number", "text", "column", "word", "mark", "end"]
SAME = {"<=": "≤", ">=": "≥", "!=": "≠", "<>": "≠", "×": "*", "÷": "/", "−": "-"}


class FormulaError(HourglassError):
    """A formula that cannot be used; ``start`` and ``end`` are the place, counted from 0."""

    def __init__(self, message: str, start: int, end: int) -> None:
        self.message, self.start, self.end = message, start, max(end, start + 1)
        super().__init__(f"{message} (at character {start + 1})")


@dataclass(frozen=True, slots=True)
class Token:
    """A word of a formula: its kind, its text, and where it stands."""

    kind: Kind
    text: str
    start: int
    end: int


def tokens(formula: str) -> list[Token]:
    """The words of a formula, with an end mark.

    Raises:
        FormulaError: at the first character that begins no word.
    """
    if len(formula) > MAX_FORMULA_CHARACTERS:
        raise FormulaError(
            f"A formula may have {grouped(MAX_FORMULA_CHARACTERS)} characters at most",
            MAX_FORMULA_CHARACTERS,
            len(formula),
        )
    found: list[Token] = []
    at = 0
    while at < len(formula):
        match = TOKEN.match(formula, at)
        if match is None:
            raise FormulaError(_strange(formula[at]), at, at + 1)
        kind, text = match.lastgroup, match[0]
        if kind in ("text", "column"):
            text = text[1:-1]
        if kind == "mark":
            text = SAME.get(text, text)
        if kind != "space":
            found.append(Token(kind, text, at, match.end()))  # type: ignore[arg-type]
        at = match.end()
    return [*found, Token("end", "", len(formula), len(formula) + 1)]


def _strange(character: str) -> str:
    if character in '"“':
        return "This text is opened and never closed"
    if character == "[":
        return "This column name is opened with [ and never closed with ]"
    return f"“{character}” has no meaning in a formula"

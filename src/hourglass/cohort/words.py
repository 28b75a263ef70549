"""How numbers are written in the sentences of findings, steps and ledgers
(methods.md, section 10: How numbers are shown)."""

from collections.abc import Sequence

NARROW_SPACE = "\u202f"
MINUS = "−"


def grouped(n: int) -> str:
    """Digits in threes, set apart by a narrow space; a minus is U+2212."""
    return f"{n:,}".replace(",", NARROW_SPACE).replace("-", MINUS)


def share_of_rows(share: float) -> str:
    """A share in whole percent, which is 0 or 100 only of none or of all."""
    if 0 < share < 0.005:
        return "under 1%"
    if 0.995 <= share < 1:
        return "over 99%"
    return f"{100 * share:.0f}%"


MAX_WORD_CHARACTERS, MAX_SENTENCE_CHARACTERS = 60, 700


def listed(words: Sequence[str], most: int = 8) -> str:
    """Words in a row, each cut to be read at a glance, those past the most counted."""
    shown = ", ".join(cut(word) for word in words[:most])
    more = len(words) - most
    return f"{shown} and {grouped(more)} more" if more > 0 else shown


def cut(words: str, most: int = MAX_WORD_CHARACTERS) -> str:
    """Words no longer than can be read."""
    return words if len(words) <= most else words[: most - 1].rstrip() + "…"

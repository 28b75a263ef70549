"""Words and numbers that stay on one line."""

import re

NO_BREAK = "\u00a0"
_TIED = re.compile(r"(?<=\b[pP]) (?=[<>=])|(?<=[<>=]) (?=[\d\u2212])")


def tied(text: str) -> str:
    """Text in which "p < 0.001" and its like are not broken over two lines."""
    return _TIED.sub(NO_BREAK, text)

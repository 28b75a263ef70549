"""The fonts that figures are printed with, and how wide words are in them."""

import logging
from functools import cache
from pathlib import Path

from matplotlib import font_manager
from matplotlib.font_manager import FontProperties
from matplotlib.textpath import TextToPath

from hourglass.cohort.words import cut

FOLDER = Path(__file__).parent / "fonts"
FAMILY = "Hourglass Sans"
FALLBACK = "DejaVu Sans"
"""Comes with the plotting library; it has the glyphs that the other lacks, such as ◐."""
FILES = {400: FOLDER / "HourglassSans-Regular.ttf", 600: FOLDER / "HourglassSans-Semibold.ttf"}
# The other font has no semibold; that its bold stands in is no news.
logging.getLogger("matplotlib.font_manager").setLevel(logging.ERROR)
for _file in FILES.values():
    font_manager.fontManager.addfont(_file)


@cache
def font(size: float, weight: int = 400) -> FontProperties:
    """The font at a size in points."""
    return FontProperties(family=[FAMILY, FALLBACK], size=size, weight=weight)


@cache
def width(words: str, size: float, weight: int = 400) -> float:
    """How wide words are, in points."""
    wide, _, _ = TextToPath().get_text_width_height_descent(words, font(size, weight), ismath=False)
    return float(wide)


def wrapped(words: str, letters: int, lines: int) -> list[str]:
    """Words in at most so many lines of so many letters."""
    found: list[str] = []
    for word in words.split(" "):
        if found and len(found[-1]) + 1 + len(word) <= letters:
            found[-1] = f"{found[-1]} {word}"
        else:
            found.append(word)
    if len(found) > lines:
        rest = " ".join(found[lines - 1 :])
        found = [*found[: lines - 1], rest]
    return [cut(line, letters) for line in found]

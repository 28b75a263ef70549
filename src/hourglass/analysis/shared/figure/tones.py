"""Tones, dashes and glyphs: ``tones.json`` is the one place from which screen and print take them."""

import json
from importlib.resources import files
from typing import Any, Literal

Preset = Literal["house", "grey", "distinct"]
TONES: dict[str, Any] = json.loads(
    files("hourglass.analysis.shared.figure").joinpath("tones.json").read_text("utf-8")
)
_VARIANT = {"house": "light", "grey": "grey", "distinct": "distinct"}


def colour(tone: int, preset: Preset = "house") -> str:
    """The colour of a group on paper; ink where there is none."""
    if tone < 0:
        return str(TONES["ink"]["light"])
    groups = TONES["groups"]
    return str(groups[tone % len(groups)][_VARIANT[preset]])


def dash(tone: int) -> tuple[float, ...]:
    """The dash of a group's line, in points: drawn, left out, and so on; none for a solid one."""
    groups = TONES["groups"]
    return () if tone < 0 else tuple(groups[tone % len(groups)]["dash"])


def shade(name: str) -> str:
    """A colour that belongs to no group: "quiet", "hairline", "sand", "dots"."""
    return str(TONES[name]["light"])

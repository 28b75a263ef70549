"""The fonts of the page, put into the report so that it needs nothing from outside."""

from base64 import b64encode
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from pathlib import Path

import matplotlib as mpl
from markupsafe import Markup

from hourglass.report.print.fonts import FALLBACK, FAMILY, FILES

GREEK = "U+0370-03FF"
SCHEME = "font:"
"""What the addresses of the fonts on paper begin with."""
FACES = (
    ("Source Sans 3", 400, "source-sans-3-latin-400", ""),
    ("Source Sans 3", 400, "source-sans-3-greek-400", GREEK),
    ("Source Sans 3", 600, "source-sans-3-latin-600", ""),
    ("Source Serif 4", 400, "source-serif-4-latin-400", ""),
    ("Source Serif 4", 600, "source-serif-4-latin-600", ""),
)


@dataclass(frozen=True, slots=True)
class PageFonts:
    """Style rules with the fonts inside them, and the families for words that are not headings."""

    faces: Markup
    sans: Markup


@cache
def screen_fonts() -> PageFonts:
    """The subsets that the client ships too."""
    faces = (_face(*face) for face in FACES)
    return PageFonts(Markup("\n").join(faces), Markup('"Source Sans 3", "Segoe UI", sans-serif'))


@cache
def paper_fonts() -> PageFonts:
    """Whole fonts, by their addresses: of several subsets of one family only the first finds its way into a
    PDF, and reading them out of the page again would take longer than laying it out.
    """
    rules = (
        _rule(one.family, one.weight, "", one.kind, f"{SCHEME}{name}")
        for name, one in paper_files().items()
    )
    return PageFonts(Markup("\n").join(rules), Markup(f'"{FAMILY}", "{FALLBACK}"'))  # noqa: S704


@dataclass(frozen=True, slots=True)
class FontFile:
    """A font of the page on paper."""

    family: str
    weight: int
    kind: str
    data: bytes


@cache
def paper_files() -> dict[str, FontFile]:
    """The fonts by their names in addresses.

    The last ones have the signs that the others lack, and come with the plotting library.
    """
    shipped = Path(mpl.get_data_path()) / "fonts" / "ttf"
    serif = [face for face in FACES if face[0] == "Source Serif 4"]
    found = [
        *(FontFile(family, weight, "woff2", _subset(name)) for family, weight, name, _ in serif),
        *(FontFile(FAMILY, weight, "truetype", at.read_bytes()) for weight, at in FILES.items()),
        FontFile(FALLBACK, 400, "truetype", (shipped / "DejaVuSans.ttf").read_bytes()),
        FontFile(FALLBACK, 600, "truetype", (shipped / "DejaVuSans-Bold.ttf").read_bytes()),
    ]
    return {str(k): one for k, one in enumerate(found)}


def _face(family: str, weight: int, name: str, covers: str) -> Markup:
    only = f" unicode-range: {covers};" if covers else ""
    inside = f"data:font/woff2;base64,{b64encode(_subset(name)).decode()}"
    return _rule(family, weight, only, "woff2", inside)


def _subset(name: str) -> bytes:
    return files("hourglass.report").joinpath("fonts", f"{name}.woff2").read_bytes()


def _rule(family: str, weight: int, only: str, kind: str, address: str) -> Markup:
    return Markup(  # noqa: S704 (our own files)
        f'@font-face {{ font-family: "{family}"; font-weight: {weight};{only} '
        f'src: url({address}) format("{kind}"); }}'
    )

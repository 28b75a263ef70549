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
    """Whole fonts: of several subsets of one family only the first finds its way into a PDF.

    The last one has the signs that the others lack, and comes with the plotting library.
    """
    shipped = Path(mpl.get_data_path()) / "fonts" / "ttf"
    faces = [
        *(_face(*face) for face in FACES if face[0] == "Source Serif 4"),
        *(_whole(FAMILY, weight, file) for weight, file in FILES.items()),
        _whole(FALLBACK, 400, shipped / "DejaVuSans.ttf"),
        _whole(FALLBACK, 600, shipped / "DejaVuSans-Bold.ttf"),
    ]
    return PageFonts(Markup("\n").join(faces), Markup(f'"{FAMILY}", "{FALLBACK}"'))  # noqa: S704


def _face(family: str, weight: int, name: str, covers: str) -> Markup:
    data = files("hourglass.report").joinpath("fonts", f"{name}.woff2").read_bytes()
    only = f" unicode-range: {covers};" if covers else ""
    return _rule(family, weight, only, "woff2", data)


def _whole(family: str, weight: int, file: Path) -> Markup:
    return _rule(family, weight, "", "truetype", file.read_bytes())


def _rule(family: str, weight: int, only: str, kind: str, data: bytes) -> Markup:
    media = "woff2" if kind == "woff2" else "ttf"
    return Markup(  # noqa: S704 (our own files)
        f'@font-face {{ font-family: "{family}"; font-weight: {weight};{only} '
        f'src: url(data:font/{media};base64,{b64encode(data).decode()}) format("{kind}"); }}'
    )

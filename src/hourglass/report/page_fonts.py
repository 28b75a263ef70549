"""The fonts of the page, put into the report so that it needs nothing from outside."""

from base64 import b64encode
from functools import cache
from importlib.resources import files

from markupsafe import Markup

GREEK = "U+0370-03FF"
FACES = (
    ("Source Sans 3", 400, "source-sans-3-latin-400", ""),
    ("Source Sans 3", 400, "source-sans-3-greek-400", GREEK),
    ("Source Sans 3", 600, "source-sans-3-latin-600", ""),
    ("Source Serif 4", 400, "source-serif-4-latin-400", ""),
    ("Source Serif 4", 600, "source-serif-4-latin-600", ""),
)


@cache
def font_faces() -> Markup:
    """Style rules with the fonts inside them, the same subsets that the client ships."""
    return Markup("\n").join(_face(*face) for face in FACES)


def _face(family: str, weight: int, name: str, covers: str) -> Markup:
    data = files("hourglass.report").joinpath("fonts", f"{name}.woff2").read_bytes()
    only = f" unicode-range: {covers};" if covers else ""
    return Markup(  # noqa: S704 (our own files)
        f'@font-face {{ font-family: "{family}"; font-weight: {weight};{only} '
        f'src: url(data:font/woff2;base64,{b64encode(data).decode()}) format("woff2"); }}'
    )

"""Writing printed figures as files: the same input gives the same bytes."""

import base64
import hashlib
import io
import re
from collections.abc import Sequence
from threading import Lock
from typing import Any
from xml.sax.saxutils import quoteattr

import matplotlib as mpl
from fontTools import subset
from fontTools.ttLib import TTFont

from hourglass.report.print.figure import Printable, paper_of
from hourglass.report.print.fonts import FAMILY, FILES
from hourglass.report.print.settings import FileFormat

MEDIA = {"svg": "image/svg+xml", "pdf": "application/pdf", "png": "image/png"}
STYLE: Any = {
    "svg.hashsalt": "figure",
    "svg.fonttype": "none",
    "pdf.fonttype": 42,
    "path.simplify": False,
    "axes.unicode_minus": True,
}
"""Words stay words; no point is left out; ids do not change from one run to the next."""
mpl.rcParams.update(STYLE)
REFERENCE = re.compile(r'(href="#|url\(#)([^")]+)')
ID, TAG = re.compile(r' id="([^"]+)"'), re.compile(r"<[^>]+>")
_one_at_a_time = Lock()
"""The plotting library is not made for several threads."""
NO_DATES: dict[str, dict[str, Any]] = {
    "svg": {"Date": None, "Creator": None},
    "pdf": {"CreationDate": None, "ModDate": None, "Creator": None, "Producer": None},
    "png": {"Software": None},
}


def print_figures(
    figures: Sequence[Printable], form: FileFormat, *, across: int = 1, fonts: bool = True
) -> bytes:
    """Figures as one file: SVG with its fonts, PDF with embedded fonts, or PNG of the requested pixels.

    Args:
        across: how many stand in a row.
        fonts: whether an SVG has its fonts inside.
    """
    name = " ".join(one.figure.name for one in figures)
    dpi = figures[0].settings.dpi
    with _one_at_a_time:
        out = io.BytesIO()
        paper = paper_of(figures, dpi, across)
        paper.savefig(out, format=form, dpi=dpi, metadata={**NO_DATES[form], "Title": name})
    made = out.getvalue()
    if form != "svg":
        return made
    named = _named(made.decode(), name)
    return (_with_fonts(named) if fonts else named).encode()


def inline_svg(one: Printable, *, fonts: bool = True) -> str:
    """The figure as an element for a page, as wide as the page lets it be; its ids are its own."""
    text = print_figures([one], "svg", fonts=fonts).decode()
    return _with_own_ids(text[text.index("<svg") :])


def _with_own_ids(text: str) -> str:
    """The SVG with ids that no other figure of the page has, and only those that something refers to.

    Only tags are changed, and not the first, which holds the figure's name: names may read like ids.
    """
    own = hashlib.sha256(text.encode()).hexdigest()[:8]
    first, rest = text[: text.index(">")], text[text.index(">") :]
    referred = {of[2] for tag in TAG.findall(rest) for of in REFERENCE.finditer(tag)}

    def renamed(tag: re.Match[str]) -> str:
        now = REFERENCE.sub(lambda of: f"{of[0]}-{own}", tag[0])
        return ID.sub(lambda of: f' id="{of[1]}-{own}"' if of[1] in referred else "", now)

    return first + TAG.sub(renamed, rest)


def _named(text: str, name: str) -> str:
    """The SVG with its name for those who cannot see it."""
    return text.replace("<svg ", f'<svg role="img" aria-label={quoteattr(name)} ', 1)


def _with_fonts(text: str) -> str:
    """The SVG with the glyphs it uses."""
    words = "".join(re.findall(r"<text[^>]*>([^<]*)</text>", text))
    faces = "".join(_face(weight, words) for weight in FILES)
    return text.replace("<defs>", f"<defs><style>{faces}</style>", 1)


def _face(weight: int, words: str) -> str:
    font = TTFont(FILES[weight], recalcTimestamp=False)
    cut = subset.Subsetter(subset.Options(notdef_outline=True, name_IDs=[]))
    cut.populate(text=words)
    cut.subset(font)
    out = io.BytesIO()
    font.save(out)
    data = base64.b64encode(out.getvalue()).decode()
    return (
        f"@font-face{{font-family:'{FAMILY}';font-weight:{weight};"
        f"src:url(data:font/ttf;base64,{data})}}"
    )

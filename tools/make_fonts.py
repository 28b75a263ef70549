"""Makes the fonts that figures are printed with, from the subsets that the client ships.

Run once after an update of the client's font packages: `python tools/make_fonts.py` (needs brotli).
The result is renamed, as its licence requires of a changed font.
"""

import io
from pathlib import Path

from fontTools.merge import Merger
from fontTools.ttLib import TTFont

ROOT = Path(__file__).parent.parent
PACKAGES = ROOT / "web" / "node_modules" / "@fontsource"
FONTS = ROOT / "src" / "hourglass" / "report" / "print" / "fonts"
SUBSETS = ("latin", "latin-ext", "greek", "cyrillic", "vietnamese")
MADE = (
    ("source-sans-3", 400, "Hourglass Sans", "Regular"),
    ("source-sans-3", 600, "Hourglass Sans", "Semibold"),
)
FAMILY, STYLE, UNIQUE, FULL, POSTSCRIPT, WIDE_FAMILY, WIDE_STYLE = 1, 2, 3, 4, 6, 16, 17


def main() -> None:
    """Merge the subsets of each font, rename it, and write it as TrueType."""
    FONTS.mkdir(parents=True, exist_ok=True)
    for package, weight, family, style in MADE:
        files = [
            _uncompressed(
                PACKAGES / package / "files" / f"{package}-{subset}-{weight}-normal.woff2"
            )
            for subset in SUBSETS
        ]
        font = Merger().merge(files)
        _rename(font, family, style)
        font["head"].modified = font["head"].created  # the same bytes whenever it is made
        font["OS/2"].usWeightClass = weight
        font.recalcTimestamp = False
        font.save(FONTS / f"{family.replace(' ', '')}-{style}.ttf")
    licence = (PACKAGES / "source-sans-3" / "LICENSE").read_text()
    (FONTS / "LICENSE").write_text(licence)


def _uncompressed(path: Path) -> io.BytesIO:
    font = TTFont(path)
    font.flavor = None
    for table in ("GPOS", "GSUB", "GDEF", "DSIG", "BASE", "STAT"):  # nothing prints with these
        if table in font:
            del font[table]
    out = io.BytesIO()
    font.save(out)
    out.seek(0)
    return out


def _rename(font: TTFont, family: str, style: str) -> None:
    whole = f"{family} {style}"
    names = {
        FAMILY: family,
        STYLE: style,
        UNIQUE: whole,
        FULL: whole,
        POSTSCRIPT: whole.replace(" ", ""),
        WIDE_FAMILY: family,
        WIDE_STYLE: style,
    }
    for record in list(font["name"].names):
        if record.nameID in names:
            record.string = names[record.nameID]


if __name__ == "__main__":
    main()

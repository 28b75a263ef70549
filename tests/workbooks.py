"""Workbooks that differ from a demo one in a part."""

import io
import zipfile
from pathlib import Path

DEMO = Path(__file__).parents[1] / "demo" / "imports"
SHEET = '<worksheet xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"><sheetData>'


def workbook(sheet, name="xl/worksheets/sheet1.xml"):
    """The demo workbook with one part replaced."""
    out = io.BytesIO()
    with (
        zipfile.ZipFile(DEMO / "lamp_counts.xlsx") as source,
        zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as made,
    ):
        for part in source.namelist():
            made.writestr(part, sheet if part == name else source.read(part))
    return out.getvalue()


def shared_text(text, cells):
    """A sheet in which many cells hold one and the same text."""
    rows = "".join(
        f'<row r="{k}"><c r="A{k}" t="s"><v>0</v></c></row>' for k in range(1, cells + 1)
    )
    held = workbook(SHEET + rows + "</sheetData></worksheet>")
    texts = (
        '<sst xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main">'
        f"<si><t>{text}</t></si></sst>"
    )
    out = io.BytesIO()
    with (
        zipfile.ZipFile(io.BytesIO(held)) as source,
        zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as made,
    ):
        for part in source.namelist():
            if part != "xl/sharedStrings.xml":
                made.writestr(part, source.read(part))
        made.writestr("xl/sharedStrings.xml", texts)
    return out.getvalue()

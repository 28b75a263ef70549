"""All tables of the report as one spreadsheet, at full precision."""

import io
from collections.abc import Sequence
from datetime import datetime, time

from xlsxwriter import Workbook
from xlsxwriter.worksheet import Worksheet

from hourglass.analysis.shared.cell import Raw
from hourglass.report.composed import Composed
from hourglass.report.formats.form import ReportForm
from hourglass.report.tables import ReportTable, harmless

MEDIA = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
MAX_NAME_CHARACTERS = 31
"""Characters in the name of a sheet."""
FORBIDDEN = str.maketrans(dict.fromkeys("[]:*?/\\'", " "))
WIDEST = 60


class ExactSheet(Worksheet):  # type: ignore[misc]  # the library has no types
    """A sheet whose numbers are written with all their digits: the library's own has 16 of 17."""

    def _xml_number_element(
        self, number: float, attributes: Sequence[tuple[str, object]] = ()
    ) -> None:
        attributes_written = "".join(f' {key}="{value}"' for key, value in attributes)
        self.fh.write(f"<c{attributes_written}><v>{number!r}</v></c>")


def to_xlsx(report: Composed) -> bytes:
    """A sheet for each table, its first row the plain names of the columns; before them, a list."""
    out = io.BytesIO()
    options = {"in_memory": True, "strings_to_formulas": False, "strings_to_urls": False}
    book = Workbook(out, options)
    book.set_properties({"title": report.title, "created": datetime.combine(report.dated, time())})
    bold = book.add_format({"bold": True})
    names = _names(report)
    contents = book.add_worksheet("Contents")
    listed: list[list[Raw]] = [
        [name, table.title] for name, table in zip(names, report.tables, strict=True)
    ]
    _fill(contents, [["sheet", "table"], *listed])
    contents.set_row(0, None, bold)
    for name, table in zip(names, report.tables, strict=True):
        sheet = book.add_worksheet(name, worksheet_class=ExactSheet)
        _fill(sheet, _lines(table))
        sheet.set_row(0, None, bold)
        sheet.freeze_panes(1, 0)
    book.close()
    return out.getvalue()


def _lines(table: ReportTable) -> list[list[Raw]]:
    return [list(table.keys), *map(list, table.values)]


def _fill(sheet: Worksheet, lines: list[list[Raw]]) -> None:
    for k, line in enumerate(lines):
        for j, value in enumerate(line):
            if isinstance(value, str):
                sheet.write_string(k, j, str(harmless(value)))
            elif value is not None:
                sheet.write_number(k, j, value)
    for j in range(max(len(line) for line in lines)):
        longest = max(len(str(line[j])) for line in lines if j < len(line))
        sheet.set_column(j, j, min(longest + 2, WIDEST))


def _names(report: Composed) -> list[str]:
    """A name for each table's sheet, none twice."""
    made: list[str] = []
    for table in report.tables:
        plain = table.title.translate(FORBIDDEN).strip()[:MAX_NAME_CHARACTERS].strip() or table.key
        name, k = plain, 2
        while name.casefold() in {"contents", *(n.casefold() for n in made)}:
            name = f"{plain[: MAX_NAME_CHARACTERS - 4]} {k}"
            k += 1
        made.append(name)
    return made


SPREADSHEET = ReportForm("xlsx", MEDIA, "all tables, as a spreadsheet", to_xlsx)

"""The forms that the report is saved in: an explicit table."""

from hourglass.report.formats.document import DOCUMENT
from hourglass.report.formats.form import ReportForm
from hourglass.report.formats.page import PAGE
from hourglass.report.formats.paper import PAPER
from hourglass.report.formats.spreadsheet import SPREADSHEET
from hourglass.report.formats.text import MARKDOWN
from hourglass.study.place import LAYS_OUT_PAGES

ON_PAPER = (PAPER,) if LAYS_OUT_PAGES else ()
FORMS: tuple[ReportForm, ...] = (PAGE, *ON_PAPER, DOCUMENT, MARKDOWN, SPREADSHEET)

"""The forms that the report is saved in: an explicit table."""

from importlib.util import find_spec

from hourglass.report.formats.document import DOCUMENT
from hourglass.report.formats.form import ReportForm
from hourglass.report.formats.page import PAGE
from hourglass.report.formats.paper import PAPER
from hourglass.report.formats.spreadsheet import SPREADSHEET
from hourglass.report.formats.text import MARKDOWN

ON_PAPER = (PAPER,) if find_spec("weasyprint") else ()
"""Pages to print, where what lays them out is installed: the extra ``pdf`` of the package."""
FORMS: tuple[ReportForm, ...] = (PAGE, *ON_PAPER, DOCUMENT, MARKDOWN, SPREADSHEET)

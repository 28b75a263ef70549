"""The report as PDF, laid out from its page."""

from hourglass.report.composed import Composed
from hourglass.report.formats.form import ReportForm
from hourglass.report.formats.page import to_html

IDENTIFIER = b"olden-hourglass-report"
"""The same for every report: one that is made twice is the same file."""


def to_pdf(report: Composed) -> bytes:
    """The report on A4 pages, its fonts in it, with bookmarks and a table's head on each of its pages."""
    # Loading the library takes long, and it needs libraries of the system.
    from weasyprint import HTML

    return bytes(HTML(string=to_html(report, paper=True)).write_pdf(pdf_identifier=IDENTIFIER))


PAPER = ReportForm("pdf", "application/pdf", "pages to print", to_pdf)

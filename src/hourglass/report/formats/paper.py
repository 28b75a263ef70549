"""The report as PDF, laid out from its page."""

from hourglass.report.composed import Composed
from hourglass.report.formats.form import ReportForm
from hourglass.report.formats.page import to_html
from hourglass.report.page_fonts import SCHEME, paper_files

IDENTIFIER = b"olden-hourglass-report"
"""The same for every report: one that is made twice is the same file."""


def to_pdf(report: Composed) -> bytes:
    """The report on A4 pages, its fonts in it, with bookmarks and a table's head on each of its pages."""
    # Loading the library takes long, and it needs libraries of the system.
    from weasyprint import HTML
    from weasyprint.urls import URLFetcher, URLFetcherResponse

    class OwnFonts(URLFetcher):  # type: ignore[misc]
        """Gives the fonts of the page, and nothing else, whatever a page names."""

        def fetch(self, url: str, headers: object = None) -> URLFetcherResponse:
            known = paper_files().get(url.removeprefix(SCHEME))
            if known is None or not url.startswith(SCHEME):
                raise ValueError(f"a report on paper has nothing of {url}")
            return URLFetcherResponse(url, known.data)

    page = HTML(string=to_html(report, paper=True), url_fetcher=OwnFonts())
    return bytes(page.write_pdf(pdf_identifier=IDENTIFIER, pdf_tags=True))


PAPER = ReportForm("pdf", "application/pdf", "pages to print", to_pdf)

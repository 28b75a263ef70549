"""The report as it crosses the edge."""

from hourglass.analysis.sentence import Sentence
from hourglass.analysis.typed import Typed


class ReportResult(Typed):
    """The report's statement and page, and the keys of its tables."""

    sentence: Sentence
    html: str
    tables: list[str]
    headline: str

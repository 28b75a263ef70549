"""The report as it crosses the edge."""

from hourglass.analysis.shared.sentence import Sentence
from hourglass.analysis.shared.typed import Typed


class Offer(Typed):
    """A piece that is not printed, because nobody has opened its stage."""

    stage: str
    stage_title: str
    sentence: str


class NamedTable(Typed):
    """A table of the report that can be saved."""

    key: str
    title: str


class ReportResult(Typed):
    """The report's statement and page, its tables, and what could be added."""

    sentence: Sentence
    html: str
    tables: list[NamedTable]
    offers: list[Offer]
    headline: str

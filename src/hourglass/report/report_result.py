"""The report as it crosses the edge."""

from hourglass.analysis.sentence import Sentence
from hourglass.analysis.statements import Stage
from hourglass.analysis.typed import Typed


class Offer(Typed):
    """A piece that is not printed, because nobody has opened its stage."""

    stage: Stage
    sentence: str


class ReportResult(Typed):
    """The report's statement and page, the keys of its tables, and what could be added."""

    sentence: Sentence
    html: str
    tables: list[str]
    offers: list[Offer]
    headline: str

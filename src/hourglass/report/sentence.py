"""The report's own statement as a sentence."""

from hourglass.analysis.shared import wording
from hourglass.analysis.shared.sentence import Entry, Option, Sentence, Slot, sentence
from hourglass.report.pieces.piece import Pieces
from hourglass.report.statement import ReportStatement


def report_sentence(statement: ReportStatement, pieces: Pieces, study: str) -> Sentence:
    """The statement in words."""
    chosen = [p for p in pieces if p.key not in statement.left_out]
    options = [
        Option(
            label=p.words,
            note="in the report" if p in chosen else "left out",
            field="left_out",
            value=[q.key for q in pieces if (q in chosen) == (q == p)],
            chosen=p in chosen,
        )
        for p in pieces
    ]
    title = statement.title or study
    return sentence(
        "Report ",
        Slot(
            id="title",
            label=title,
            title="Title of the report",
            entry=Entry(kind="text", field="title", label="Title", value=title),
        ),
        ", with ",
        Slot(
            id="pieces",
            label="all its pieces"
            if len(chosen) == len(pieces)
            else wording.listed([p.words for p in chosen]) or "nothing",
            title="Pieces of the report",
            options=options,
        ),
        ".",
    )

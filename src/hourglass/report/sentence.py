"""The report's own statement as a sentence."""

from collections.abc import Sequence
from typing import get_args

from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.sentence import Entry, Option, Sentence, Slot, sentence
from hourglass.report.inputs import ReportInputs
from hourglass.report.pieces.piece import Pieces
from hourglass.report.statement import LENGTHS, WIDTHS, ReportStatement, Width

CURVES = (
    ("", "those of Compare, else of Estimate", "whichever has been opened"),
    ("compare", "those of Compare", "by the groups that are compared"),
    ("estimate", "those of Estimate", "by the groups that are shown there"),
)


def report_sentence(
    found: ReportInputs, statement: ReportStatement, pieces: Pieces, letters: Sequence[str]
) -> Sentence:
    """The statement in words; ``letters`` are those of the kept models."""
    title = statement.title or found.study
    parts: list[str | Slot] = [
        "Report ",
        Slot(
            id="title",
            label=title,
            title="Title of the report",
            entry=Entry(kind="text", field="title", label="Title", value=title),
        ),
        " ",
        _length(statement),
        ", for ",
        _width(statement),
        ", with ",
        _pieces(statement, pieces),
    ]
    if letters or statement.model:
        parts += [", hazard ratios of ", _model(statement, letters)]
    if found.has("compare") and found.has("estimate"):
        parts += [", curves: ", _curves(statement)]
    return sentence(*parts, ".")


def _length(statement: ReportStatement) -> Slot:
    return Slot(
        id="length",
        label=LENGTHS[statement.length][0],
        title="Length of the report",
        options=[
            Option(
                label=label, note=note, field="length", value=key, chosen=key == statement.length
            )
            for key, (label, note) in LENGTHS.items()
        ],
    )


def _width(statement: ReportStatement) -> Slot:
    widths: tuple[Width, ...] = get_args(Width)
    return Slot(
        id="width",
        label=WIDTHS[statement.width][1],
        title="What figures are drawn for",
        options=[
            Option(label=WIDTHS[w][1], field="width", value=w, chosen=w == statement.width)
            for w in widths
        ],
    )


def _pieces(statement: ReportStatement, every: Pieces) -> Slot:
    held = statement.model_copy(update={"left_out": ()})
    pieces = [p for p in every if held.holds(p.key, p.shortest)]
    chosen = [p for p in pieces if p.key not in statement.left_out]
    others = [key for key in statement.left_out if key not in {p.key for p in pieces}]
    left = len(pieces) - len(chosen)
    options = [
        Option(
            label=p.words,
            note="in the report" if p in chosen else "left out",
            field="left_out",
            value=others + [q.key for q in pieces if (q in chosen) == (q == p)],
            chosen=p in chosen,
        )
        for p in pieces
    ]
    label = "all its pieces" if not left else f"all its pieces but {formatting.grouped(left)}"
    if not chosen:
        label = "nothing"
    elif len(chosen) <= 3:
        label = formatting.listed([p.words for p in chosen])
    return Slot(id="pieces", label=label, title="Pieces of the report", options=options)


def _model(statement: ReportStatement, letters: Sequence[str]) -> Slot:
    there = not statement.model or statement.model in letters
    label = f"model {statement.model}" if statement.model else "the model shown"
    return Slot(
        id="model",
        label=label if there else f"{label}, which is gone",
        title="Model of the hazard ratios",
        state="filled" if there else "open",
        options=[
            Option(
                label="the model shown",
                note="the one that Model shows, whichever that is",
                field="model",
                value="",
                chosen=not statement.model,
            ),
            *(
                Option(label=f"model {x}", field="model", value=x, chosen=x == statement.model)
                for x in letters
            ),
        ],
    )


def _curves(statement: ReportStatement) -> Slot:
    label = next(label for key, label, _ in CURVES if key == statement.curves)
    return Slot(
        id="curves",
        label=label,
        title="Curves that are drawn",
        options=[
            Option(
                label=words, note=note, field="curves", value=key, chosen=key == statement.curves
            )
            for key, words, note in CURVES
        ],
    )

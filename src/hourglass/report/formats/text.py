"""The report as Markdown: words and tables; its figures stand beside it as files."""

import re

from hourglass.report.composed import Composed, ComposedPiece
from hourglass.report.editable_text import EditableText
from hourglass.report.formats.form import ReportForm
from hourglass.report.formats.page import shown
from hourglass.report.tables import ReportTable

MEANT = re.compile(r"([\\`*_{}\[\]<>#|~])")
BEGINS = re.compile(r"^(\s*\d*)([-+=.)])", re.MULTILINE)


def to_markdown(report: Composed) -> bytes:
    """The report in plain text with marks, UTF-8."""
    lines = [f"# {_plain(report.title)}", _plain(report.line)]
    for piece in report.pieces:
        lines += _piece(piece)
    lines.append(f"Made with Olden Hourglass {report.version} on {report.made_on}.")
    return ("\n\n".join(lines) + "\n").encode()


def _piece(piece: ComposedPiece) -> list[str]:
    lines = [f"## {_plain(piece.title.text)}"]
    lines += [_plain(text) for text in piece.running_text]
    for table in piece.tables:
        lines += _table(table)
    if piece.figure is not None:
        lines.append(f"![{_plain(piece.figure.name)}](figures/{piece.figure.key}.svg)")
        lines += [f"**{_plain(piece.figure.caption)}**", *_note(piece.figure.note)]
    lines += [f"> **{_plain(c.lead)}** {_plain(c.sentence)}" for c in piece.cautions]
    if piece.items:
        items = (f"{k}. {_plain(item)}" for k, item in enumerate(piece.items, start=1))
        lines.append("\n".join(items))
    return lines + _note(piece.note)


def _note(note: EditableText | None) -> list[str]:
    return [] if note is None else [_plain(note.text)]


def _table(table: ReportTable) -> list[str]:
    head = [_cell(text) for text in table.head]
    rows = [[_cell(shown(cell)) for cell in row] for row in table.rows]
    rule = [":---" if wordy else "---:" for wordy in table.wordy]
    lines = [f"| {' | '.join(line)} |" for line in (head, rule, *rows)]
    return [
        f"**{_plain(table.caption)}**",
        "\n".join(lines),
        *([_plain(table.note)] if table.note else []),
    ]


def _cell(text: str) -> str:
    return _plain(text).replace("\n", " ")


def _plain(text: str) -> str:
    """Text in which nothing is read as a mark."""
    return BEGINS.sub(r"\1\\\2", MEANT.sub(r"\\\1", text))


MARKDOWN = ReportForm("md", "text/markdown", "text with marks", to_markdown)

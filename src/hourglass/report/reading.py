"""A report as it is shown: composed, drawn, with its checklist."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.stage import Stages, stage_of
from hourglass.report.checklist import checklist
from hourglass.report.composed import Composed, ComposedPiece, composed
from hourglass.report.editable_text import EditableText
from hourglass.report.formats.registry import FORMS
from hourglass.report.inputs import ReportInputs
from hourglass.report.pieces.piece import Pieces
from hourglass.report.print.files import inline_svg
from hourglass.report.report_result import (
    EditableTextView,
    FigureView,
    LeftOut,
    LostWords,
    NamedForm,
    NamedTable,
    Offer,
    PieceSource,
    PieceView,
    ReportResult,
    SentenceView,
    TableView,
)
from hourglass.report.sentence import report_sentence
from hourglass.report.statement import ReportStatement, in_order
from hourglass.report.tables import ReportTable
from hourglass.study.actions.action import PREPARE
from hourglass.study.stage_titles import stage_titles
from hourglass.study.view_keys import stage_of_view


def read(
    found: ReportInputs,
    statement: ReportStatement,
    pieces: Pieces,
    stages: Stages,
    letters: tuple[str, ...],
) -> ReportResult:
    """A report as it is shown; ``letters`` are those of the models that it could show."""
    made = composed(found, statement, pieces)
    titles = {piece.key: piece.title for piece in pieces}
    sources = Sources(found, stage_titles(stages))
    return ReportResult(
        sentence=report_sentence(found, statement, pieces, letters),
        title=made.title,
        line=made.line,
        pieces=[_piece(piece, sources) for piece in made.pieces],
        order=in_order(list(titles), statement.order),
        left_out=[LeftOut(key=k, title=titles[k]) for k in titles if k in statement.left_out],
        lost=[LostWords(key=key, text=edit.text) for key, edit in made.lost.items()],
        checklist=checklist(found, made),
        forms=[NamedForm(key=form.key, words=form.words) for form in FORMS],
        tables=[NamedTable(key=t.key, title=t.title) for t in made.tables],
        offers=_offers(found, statement, pieces, stages),
        headline=_headline(made),
    )


def _headline(made: Composed) -> str:
    doubtful = sum(words.in_doubt for piece in made.pieces for words in piece.words())
    more = f" · {formatting.count(doubtful, 'passages')} to read again" if doubtful else ""
    return formatting.count(len(made.pieces), "pieces") + more


@dataclass(frozen=True, slots=True)
class Sources:
    """The stages from whose results a report is made, as far as somebody has opened them."""

    found: ReportInputs
    titles: Mapping[str, str]

    def of(self, names: tuple[str, ...]) -> list[PieceSource]:
        """Those of these names, with their titles."""
        there = [stage_of_view(name) for name in names if name == PREPARE or self.found.has(name)]
        return [PieceSource(stage=name, title=self.titles[name]) for name in there]


def _piece(piece: ComposedPiece, sources: Sources) -> PieceView:
    figure = piece.figure

    def paragraph(words: EditableText) -> EditableTextView:
        sentences = [
            SentenceView(
                text=one.text,
                sources=sources.of(piece.stages if one.stages is None else one.stages),
            )
            for one in words.sentences
        ]
        return _words(words, sentences)

    return PieceView(
        key=piece.key,
        title=_words(piece.title),
        paragraphs=[paragraph(words) for words in piece.paragraphs],
        refers=piece.refers,
        sources=sources.of(piece.stages),
        tables=[_table(*one) for one in zip(piece.tables, piece.table_notes, strict=True)],
        figure=None
        if figure is None
        else FigureView(
            svg=inline_svg(figure.drawing),
            name=figure.name,
            caption=figure.caption,
            note=None if figure.note is None else _words(figure.note),
        ),
        cautions=list(piece.cautions),
        items=list(piece.items),
        note=None if piece.note is None else _words(piece.note),
    )


def _words(words: EditableText, sentences: Sequence[SentenceView] = ()) -> EditableTextView:
    return EditableTextView(
        key=words.key,
        text=words.text,
        made=words.made,
        edited=words.edited,
        doubt=_doubt(words),
        sentences=list(sentences),
    )


def _doubt(text: EditableText) -> str:
    if text.changed:
        numbers = formatting.listed(list(text.changed))
        return f"The results no longer contain {numbers}, which these words quote."
    if text.otherwise:
        return "The results are worded otherwise since these words were written."
    return ""


def _table(table: ReportTable, note: EditableText | None) -> TableView:
    return TableView(
        key=table.key,
        caption=table.caption,
        head=list(table.head),
        wordy=list(table.wordy),
        rows=[list(row) for row in table.rows],
        note=None if note is None else _words(note),
    )


def _offers(
    found: ReportInputs, statement: ReportStatement, pieces: Pieces, stages: Stages
) -> list[Offer]:
    """What could be printed once somebody has opened its stage, or has had it computed."""
    offers = []
    for piece in pieces:
        stage = piece.needs[-1] if piece.needs else None
        held = statement.holds(piece.key, piece.shortest)
        if stage and piece.offer and not found.has(stage) and held:
            title = stage_of(stages, stage).title
            sentence = f"{piece.offer}: printed once {title} has been opened."
            offers.append(Offer(stage=stage, stage_title=title, sentence=sentence))
    for part in found.waiting:
        sentence = (
            f"{part.title}: takes long, and is printed once somebody has had it computed "
            f"in {part.stage_title}."
        )
        offers.append(Offer(stage=part.stage, stage_title=part.stage_title, sentence=sentence))
    return offers

"""Pieces that print what stands under the figure of a stage: its tables and the sentences about them."""

from collections.abc import Callable, Sequence
from dataclasses import replace

from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.result import PartResult, StageResult
from hourglass.analysis.shared.section_ids import SectionId
from hourglass.analysis.shared.sections import Section, Table, Words
from hourglass.report.cell_columns import cell_columns
from hourglass.report.inputs import ReportInputs
from hourglass.report.pieces.cited import paragraph
from hourglass.report.pieces.piece import Piece, Printed
from hourglass.report.statement import Length
from hourglass.report.tables import ReportColumn, ReportTable

P_KEYS = frozenset({"p", "wald_p"})
"""Columns whose head ends with "p": the number goes on with the sign; above others stands a name."""
MAX_FACTS = 5
"""Columns of a table of one row that is written as a sentence."""


def piece_of_sections(
    *,
    key: str,
    title: str,
    words: str,
    stage: str,
    sections: tuple[SectionId, ...],
    shows: str,
    shortest: Length = "complete",
    parts: tuple[str, ...] = (),
) -> Piece:
    """A piece that prints some sections of a stage, and nothing else."""
    return Piece(
        key=key,
        title=title,
        words=words,
        shows=shows,
        shortest=shortest,
        render=sections_printed(stage, sections),
        needs=(stage,),
        parts=parts,
        sections=sections,
    )


def sections_printed(stage: str, ids: tuple[SectionId, ...]) -> Callable[[ReportInputs], Printed]:
    """What prints some sections of a stage, those of its parts among them, where they are there."""

    def render(found: ReportInputs) -> Printed:
        result = found.results.get(stage)
        if not isinstance(result, StageResult) or result.blank is not None:
            return Printed()
        there = [s for s in _sections(found, stage, result) if s.id in ids and s.blocks]
        there.sort(key=lambda section: ids.index(SectionId(section.id)))
        printed = [_of_section(stage, section) for section in there]
        return Printed(
            paragraphs=tuple(words for one in printed for words in one.paragraphs),
            tables=tuple(table for one in printed for table in one.tables),
        )

    return render


def _of_section(stage: str, section: Section) -> Printed:
    """A section: its sentences, then its tables; a table of one row is a sentence.

    Its quiet sentences are the note of its last table, or stands after its sentences.
    """
    tables = _tables(stage, section)
    texts = [*_worded(section, quiet=False), *(in_a_sentence(t) for t in tables if t.in_words)]
    quiet = _worded(section, quiet=True)
    last = next((k for k in reversed(range(len(tables))) if not tables[k].in_words), None)
    if last is None:
        texts += quiet
    elif quiet:
        note = " ".join(filter(None, (tables[last].note, *quiet)))
        tables[last] = replace(tables[last], note=note)
    words = paragraph(*texts)
    return Printed(paragraphs=(words,) if words else (), tables=tuple(tables))


def in_a_sentence(table: ReportTable) -> str:
    """What a table of one row holds: "Restricted mean … (all grafts): restricted mean 55.3, …"."""
    read = [column for column in table.columns if column.head is not None]
    label, head = read[0].cells[0].text, read[0].head
    facts = [_fact(column) for column in read[1:] if column.cells[0].text]
    of = f"{label} {head}" if head else label
    return f"{table.title} ({of}): {', '.join(facts)}."


def _fact(column: ReportColumn) -> str:
    cell, head = column.cells[0], column.head
    if cell.exact and isinstance(cell.raw, float):
        phrase = formatting.p_phrase(cell.raw)
        return f"{head}{phrase[1:]}" if column.key in P_KEYS else f"{head} {phrase}"
    if column.key == "df":
        return f"{cell.text} {head}"
    return cell.text if cell.wordy or not head else f"{head} {cell.text}"


def _sections(found: ReportInputs, stage: str, result: StageResult) -> list[Section]:
    of_parts = [
        section
        for key, part in found.results.items()
        if key.startswith(f"{stage}/") and isinstance(part, PartResult)
        for section in part.sections
    ]
    return [*result.sections, *of_parts]


def _worded(section: Section, *, quiet: bool) -> list[str]:
    words = [b for b in section.blocks if isinstance(b, Words) and not b.for_screen]
    texts = [
        (b.text, f"{'; '.join(b.items)}." if b.items else "") for b in words if b.quiet == quiet
    ]
    return [text for pair in texts for text in pair if text]


def _tables(stage: str, section: Section) -> list[ReportTable]:
    return [
        _table(
            f"{stage.replace(' ', '-')}-{section.id}" + (f"-{k}" if k else ""),
            block.label if block.label == section.title or k else section.title,
            block,
        )
        for k, block in enumerate(b for b in section.blocks if isinstance(b, Table))
    ]


def _one_fact(columns: Sequence[ReportColumn]) -> bool:
    """Whether a table has one row, and little of it."""
    read = [column for column in columns if column.head is not None]
    return len(read[0].cells) == 1 and len(read) <= MAX_FACTS


def _table(key: str, title: str, block: Table) -> ReportTable:
    columns = cell_columns(block.head or [""] * len(block.keys), block.keys, block.rows)
    return ReportTable(key=key, title=title, columns=columns, in_words=_one_fact(columns))


TESTS = piece_of_sections(
    key="tests",
    title="Further tests",
    words="tests in pairs, of a margin and of cumulative incidence",
    shows="the further tests",
    shortest="journal",
    stage="compare",
    sections=(
        SectionId.MARGIN,
        SectionId.INCIDENCE,
        SectionId.PAIRS,
        SectionId.THRESHOLD,
        SectionId.SCREENING,
    ),
    parts=("compare/threshold",),
)
WEIGHTS = piece_of_sections(
    key="weights",
    title="Other weights of the test",
    words="the test with other weights",
    shows="the test with other weights of the event times",
    stage="compare",
    sections=(SectionId.WEIGHTS,),
    parts=("compare/weights",),
)
CONTRASTS = piece_of_sections(
    key="contrasts",
    title="How far the groups differ",
    words="means, differences, rates and medians of the groups",
    shows="how far the groups differ",
    shortest="journal",
    stage="compare",
    sections=(
        SectionId.CROSSING,
        SectionId.MEAN,
        SectionId.CHOSEN_TIMES,
        SectionId.RATES,
        SectionId.MEDIANS,
    ),
    parts=("compare/medians",),
)
EVERYONE = piece_of_sections(
    key="estimates",
    title="Quartiles and restricted mean survival time",
    words="quartiles and means",
    shows="quartiles and restricted mean survival times",
    stage="estimate",
    sections=(SectionId.QUARTILES, SectionId.MEAN),
)
IN_OTHER_WORDS = (
    SectionId.FOLLOW_UP,
    SectionId.WHOLE,
    SectionId.TEST,
    SectionId.TESTS,
    SectionId.RATIOS,
    SectionId.RANKING,
    SectionId.IN_WORDS,
)
"""Sections whose numbers a piece prints in a form of its own."""
ON_SCREEN_ONLY = (
    SectionId.AT_TIME,
    SectionId.PREDICTED_NOW,
    SectionId.IGNORING,
    SectionId.COEFFICIENTS,
    SectionId.REMEDIES,
    SectionId.KEEP,
    SectionId.VALUES,
    SectionId.SCREENING_ACTIONS,
    SectionId.APPLIED,
    SectionId.TENTHS,
)
"""Sections that follow the cursor, warn, act, or are about other rows; coefficients are in the files."""

"""Pieces that print what stands under the figure of a stage: its tables and what is said of them."""

from collections.abc import Callable
from dataclasses import replace

from hourglass.analysis.shared.result import PartResult, StageResult
from hourglass.analysis.shared.section_ids import SectionId
from hourglass.analysis.shared.sections import Section, Table, Words
from hourglass.report.cell_columns import cell_columns
from hourglass.report.findings import Findings
from hourglass.report.pieces.piece import Piece, Printed
from hourglass.report.tables import ReportTable


def piece_of_sections(
    *,
    key: str,
    title: str,
    words: str,
    stage: str,
    sections: tuple[SectionId, ...],
    parts: tuple[str, ...] = (),
) -> Piece:
    """A piece that prints some sections of a stage, and nothing else."""
    return Piece(
        key=key,
        title=title,
        words=words,
        render=sections_printed(stage, sections),
        needs=(stage,),
        parts=parts,
        sections=sections,
    )


def sections_printed(stage: str, ids: tuple[SectionId, ...]) -> Callable[[Findings], Printed]:
    """What prints some sections of a stage, those of its parts among them, where they are there."""

    def render(found: Findings) -> Printed:
        result = found.results.get(stage)
        if not isinstance(result, StageResult) or result.blank is not None:
            return Printed()
        there = [s for s in _sections(found, stage, result) if s.id in ids and s.blocks]
        there.sort(key=lambda section: ids.index(SectionId(section.id)))
        tables = [table for section in there for table in _tables(stage, section)]
        alone = [one for section in there if not _tables(stage, section) for one in _quiet(section)]
        return Printed(
            paragraphs=tuple(text for section in there for text in _said(section, quiet=False)),
            tables=tuple(tables),
            note=" ".join(alone),
        )

    return render


def _sections(found: Findings, stage: str, result: StageResult) -> list[Section]:
    of_parts = [
        section
        for key, part in found.results.items()
        if key.startswith(f"{stage}/") and isinstance(part, PartResult)
        for section in part.sections
    ]
    return [*result.sections, *of_parts]


def _said(section: Section, *, quiet: bool) -> list[str]:
    words = [b for b in section.blocks if isinstance(b, Words) and b.text and not b.for_screen]
    return [b.text for b in words if b.quiet == quiet]


def _quiet(section: Section) -> list[str]:
    return _said(section, quiet=True)


def _tables(stage: str, section: Section) -> list[ReportTable]:
    """The tables of a section; what it says quietly is the note of the last."""
    made = [
        _table(
            f"{stage}-{section.id}" + (f"-{k}" if k else ""),
            block.label if block.label == section.title or k else section.title,
            block,
        )
        for k, block in enumerate(b for b in section.blocks if isinstance(b, Table))
    ]
    if made:
        made[-1] = replace(made[-1], note=" ".join(filter(None, (made[-1].note, *_quiet(section)))))
    return made


def _table(key: str, title: str, block: Table) -> ReportTable:
    columns = cell_columns(block.head or [""] * len(block.keys), block.keys, block.rows)
    return ReportTable(key=key, title=title, columns=columns)


TESTS = piece_of_sections(
    key="tests",
    title="Tests beside the planned one",
    words="tests in pairs, of a margin and of cumulative incidence",
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
    stage="compare",
    sections=(SectionId.WEIGHTS,),
    parts=("compare/weights",),
)
CONTRASTS = piece_of_sections(
    key="contrasts",
    title="How far the groups differ",
    words="means, differences, rates and medians of the groups",
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
    title="Survival in figures",
    words="quartiles, means and rates",
    stage="estimate",
    sections=(SectionId.QUARTILES, SectionId.MEAN, SectionId.GROUPS),
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

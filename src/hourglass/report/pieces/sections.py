"""Pieces that print what stands under the figure of a stage: its tables and what is said of them."""

from collections.abc import Callable, Iterable

from hourglass.analysis.shared.result import PartResult, StageResult
from hourglass.analysis.shared.sections import Section, Table, Words
from hourglass.report.cell_columns import cell_columns
from hourglass.report.findings import Findings
from hourglass.report.pieces.piece import Piece, Printed
from hourglass.report.tables import ReportTable


def sections_printed(stage: str, ids: tuple[str, ...]) -> Callable[[Findings], Printed]:
    """What prints some sections of a stage, those of its parts among them, where they are there."""

    def render(found: Findings) -> Printed:
        result = found.results.get(stage)
        if not isinstance(result, StageResult) or result.blank is not None:
            return Printed()
        there = [s for s in _sections(found, stage, result) if s.id in ids and s.blocks]
        there.sort(key=lambda section: ids.index(section.id))
        return Printed(
            paragraphs=tuple(_said(there, quiet=False)),
            tables=tuple(table for section in there for table in _tables(stage, section)),
            note=" ".join(_said(there, quiet=True)),
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


def _said(sections: Iterable[Section], *, quiet: bool) -> list[str]:
    blocks = [block for section in sections for block in section.blocks]
    words = [b for b in blocks if isinstance(b, Words) and b.text and not b.for_screen]
    return [b.text for b in words if b.quiet == quiet]


def _tables(stage: str, section: Section) -> list[ReportTable]:
    return [
        _table(
            f"{stage}-{section.id}" + (f"-{k}" if k else ""),
            block.label if block.label == section.title or k else section.title,
            block,
        )
        for k, block in enumerate(b for b in section.blocks if isinstance(b, Table))
    ]


def _table(key: str, title: str, block: Table) -> ReportTable:
    columns = cell_columns(block.head or [""] * len(block.keys), block.keys, block.rows)
    return ReportTable(key=key, title=title, columns=columns)


TESTS = Piece(
    key="tests",
    title="Tests beside the planned one",
    words="tests in pairs, of a margin and of cumulative incidence",
    render=sections_printed("compare", ("margin", "incidence", "pairs", "threshold", "screening")),
    needs=("compare",),
    parts=("compare/threshold",),
)
WEIGHTS = Piece(
    key="weights",
    title="Other weights of the test",
    words="the test with other weights",
    render=sections_printed("compare", ("weights",)),
    needs=("compare",),
    parts=("compare/weights",),
)
CONTRASTS = Piece(
    key="contrasts",
    title="How far the groups differ",
    words="means, differences, rates and medians of the groups",
    render=sections_printed("compare", ("crossing", "mean", "chosen-times", "rates", "medians")),
    needs=("compare",),
    parts=("compare/medians",),
)
EVERYONE = Piece(
    key="estimates",
    title="Survival in figures",
    words="quartiles, means and rates",
    render=sections_printed("estimate", ("quartiles", "mean", "groups")),
    needs=("estimate",),
)

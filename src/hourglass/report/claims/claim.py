"""A claim of the methods section: a sentence with its sources, made where what it describes is printed."""

from collections.abc import Callable
from dataclasses import dataclass

from hourglass.analysis.catalogue.sources import Reference
from hourglass.analysis.shared.result import PartResult, StageResult
from hourglass.analysis.shared.section_ids import SectionId
from hourglass.analysis.shared.sections import Section, Table
from hourglass.report.inputs import ReportInputs

METHODS = "methods"
"""The file of the sentences of claims."""


@dataclass(frozen=True, slots=True)
class Claimed:
    """A sentence without its full stop, and the sources that it rests on."""

    words: str
    sources: tuple[Reference, ...] = ()


@dataclass(frozen=True, slots=True)
class Claim:
    """A claim of the methods section.

    Attributes:
        made: gives its sentence, or None where nothing of the kind is printed.
        stages: those whose statement or results it describes.
    """

    key: str
    made: Callable[[ReportInputs], Claimed | None]
    stages: tuple[str, ...] = ()


def printed_section(found: ReportInputs, piece: str, stage: str, id: SectionId) -> Section | None:
    """A section of a stage or of its parts, if a piece prints it and it holds a table with a row."""
    result = found.stage(stage)
    if result is None or piece in found.left_out:
        return None
    return next((s for s in _sections(found, stage, result) if s.id == id and _has_rows(s)), None)


def opens(section: Section | None, figure: str) -> bool:
    """Whether a number of a section opens workings of that kind: whether it is there at all."""
    if section is None:
        return False
    tables = [block for block in section.blocks if isinstance(block, Table)]
    cells = [cell for table in tables for row in table.rows for cell in row]
    return any(cell.workings is not None and cell.workings.figure == figure for cell in cells)


def _sections(found: ReportInputs, stage: str, result: StageResult) -> list[Section]:
    parts = [
        part
        for key, part in found.results.items()
        if key.startswith(f"{stage}/") and isinstance(part, PartResult)
    ]
    return [*result.sections, *(section for part in parts for section in part.sections)]


def _has_rows(section: Section) -> bool:
    return any(isinstance(block, Table) and block.rows for block in section.blocks)

"""The part of Check that takes its time: concordance corrected for optimism."""

from hourglass.analysis.check.optimism_numbers import OPTIMISM, SEED
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.cell import number_cell, whole, words
from hourglass.analysis.shared.declared import Statements
from hourglass.analysis.shared.numbers import Refused
from hourglass.analysis.shared.parts import DeferredSection
from hourglass.analysis.shared.result import PartResult
from hourglass.analysis.shared.section_ids import SectionId
from hourglass.analysis.shared.sections import Section, Table, quiet
from hourglass.cohort.followup import Cohort
from hourglass.core.regression.optimism import SAMPLES, Optimism

TITLE = "Concordance with optimism"


AT_ONCE = 20_000
"""Rows up to which the model is fitted again on samples without being requested."""


def optimism_offer(cohort: Cohort) -> str:
    """What is offered where there are many rows."""
    many = cohort.table.size > AT_ONCE
    return f"Fit the model again on {SAMPLES} samples" if many else ""


class OptimismResult(PartResult):
    """The concordance of a model, and what is left of it in rows that it was not fitted on."""

    apparent: float | None
    corrected: float | None


def with_optimism(
    numbers: Optimism | Refused, cohort: Cohort, statements: Statements
) -> OptimismResult:
    """Concordance, and how much of it is optimism."""
    if isinstance(numbers, Refused):
        blank = quiet(f"No correction: {numbers.why}.")
        section = Section(id=SectionId.OPTIMISM, title=TITLE, blocks=[blank])
        return OptimismResult(sections=[section], apparent=None, corrected=None)
    return OptimismResult(
        sections=[_section(numbers)], apparent=numbers.apparent, corrected=numbers.corrected
    )


def _section(found: Optimism) -> Section:
    if found.corrected is None:
        blank = found.blank or "it cannot be determined"
        return Section(
            id=SectionId.OPTIMISM, title=TITLE, blocks=[quiet(f"No correction: {blank}.")]
        )
    rows = [
        [words(name), number_cell(formatting.rounded(value or 0.0, 3), value)]
        for name, value in (
            ("In these rows", found.apparent),
            ("Optimism", found.optimism),
            ("Its Monte-Carlo error", found.error),
            ("Corrected", found.corrected),
        )
    ]
    rows.append([words("Samples left out"), whole(found.left_out)])
    about = (
        f"The model is fitted again on {SAMPLES} bootstrap samples (seed {SEED}); optimism is how much "
        "better each does in its own rows than in these (Harrell, Lee & Mark 1996)."
    )
    table = Table(label=TITLE, keys=["what", "concordance"], rows=rows)
    return Section(id=SectionId.OPTIMISM, title=TITLE, blocks=[table, quiet(about)])


PARTS = (
    DeferredSection(
        key="optimism",
        title=TITLE,
        result=OptimismResult,
        numbers=OPTIMISM,
        show=with_optimism,
        offer=optimism_offer,
    ),
)

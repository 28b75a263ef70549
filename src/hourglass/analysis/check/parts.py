"""The part of Check that takes its time: concordance corrected for optimism."""

from typing import cast

from hourglass.analysis.check.statement import CheckStatement
from hourglass.analysis.model.fitting import fit_parted
from hourglass.analysis.model.statement import ModelStatement
from hourglass.analysis.shared import wording
from hourglass.analysis.shared.cell import figure, whole, words
from hourglass.analysis.shared.parts import Part
from hourglass.analysis.shared.result import PartResult
from hourglass.analysis.shared.sections import Section, Table, quiet
from hourglass.analysis.shared.stage import Statements
from hourglass.cohort.followup import Cohort
from hourglass.core.errors import NotEstimableError
from hourglass.core.regression.optimism import SAMPLES, Optimism, optimism
from hourglass.core.watch import Watch

TITLE = "Concordance with optimism"
SEED = 1


class OptimismResult(PartResult):
    """The concordance of a model, and what is left of it in rows that it was not fitted on."""

    apparent: float | None
    corrected: float | None


def with_optimism(cohort: Cohort, asked: Statements, watch: Watch) -> OptimismResult:
    """The model refitted on samples of the rows (methods.md, section 9: Validation of a model)."""
    model = cast(ModelStatement, asked["model"])
    assert isinstance(asked["check"], CheckStatement)
    fitted = fit_parted(cohort, model.hazards_model, watch)
    try:
        fitted.require_unpenalised()
        coded = fitted.design
        found = optimism(coded.data, coded.x, fitted.plain, SEED, watch=watch)
    except NotEstimableError as why:
        found = Optimism(
            apparent=None, optimism=None, error=None, corrected=None, left_out=0, blank=str(why)
        )
    return OptimismResult(
        sections=[_section(found)], apparent=found.apparent, corrected=found.corrected
    )


def _section(found: Optimism) -> Section:
    if found.corrected is None:
        blank = found.blank or "it cannot be told"
        return Section(id="optimism", title=TITLE, blocks=[quiet(f"No correction: {blank}.")])
    rows = [
        [words(name), figure(wording.rounded(value or 0.0, 3), value)]
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
    return Section(id="optimism", title=TITLE, blocks=[table, quiet(about)])


PARTS = (Part("optimism", TITLE, OptimismResult, with_optimism),)

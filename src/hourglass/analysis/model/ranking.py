"""Concordance in words: the share of pairs in the right order, with its standard error."""

from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.cell import number_cell, words
from hourglass.analysis.shared.sections import Table
from hourglass.core.regression.concordance import Concordance

TITLE = "Concordance"


def in_figures(found: Concordance) -> str:
    """ "0.643 ± 0.019"; blank where no pair can be compared."""
    if found.value is None:
        return ""
    error = found.standard_error or 0.0
    return f"{formatting.rounded(found.value, 3)} ± {formatting.rounded(error, 3)}"


def ranking_table(found: Concordance, otherwise: str) -> Table:
    """A line; ``otherwise`` where no pair can be compared."""
    cell = number_cell(in_figures(found) or otherwise, found.value)
    return Table(
        label=TITLE,
        keys=["what", "concordance"],
        rows=[[words("Concordance ± standard error"), cell]],
    )

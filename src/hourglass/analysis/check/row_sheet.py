"""The model's values of every row as a sheet: to be sorted, copied and saved."""

from collections.abc import Mapping

from hourglass.analysis.check.row_values import model_columns
from hourglass.analysis.model.statement import ModelStatement
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.cell import Cell, WorkingsOf, words
from hourglass.analysis.shared.declared import statement_of
from hourglass.analysis.shared.section_ids import SectionId
from hourglass.analysis.shared.sections import Section, Table, quiet
from hourglass.analysis.shared.statement import StageStatement
from hourglass.analysis.shared.workings import (
    ExplainedNumber,
    Nothing,
    NoWorkingsError,
    Opens,
    TermColumn,
    Workings,
    decimal,
)
from hourglass.cohort.followup import Cohort
from hourglass.cohort.table import NumberColumn
from hourglass.core.errors import NotEstimableError

FIGURE = "row-values"
TITLE = "Values of every row"
KEYS = str.maketrans({" ": "_", ",": "", "(": "", ")": "", "–": "_"})


def rows_sheet(cohort: Cohort, model_statement: ModelStatement) -> Workings:
    """A line a row of the table: its time, and every value that the model gives it.

    Raises:
        NoWorkingsError: when the model has no residuals.
    """
    try:
        found = model_columns(cohort, model_statement)
    except NotEstimableError as why:
        raise NoWorkingsError(str(why)) from None
    numbers = cohort.table.numbers
    opens = Opens("row-of-model", "row")
    return Workings(
        title=f"{TITLE}: {formatting.count(int(numbers.size), 'rows')}",
        formula=(
            "A row that the model is fitted without has no values; a row opens its arithmetic.",
        ),
        columns=(
            TermColumn("row", "row", numbers, whole=True, opens=opens),
            decimal("time", "time", cohort.follow_up.exit),
            *(
                decimal(column.name.translate(KEYS), column.name, column.values)
                for column in found
                if isinstance(column, NumberColumn)
            ),
        ),
        note="The same columns stand beside the prepared rows in the files that Prepare exports.",
    )


def values_section() -> Section:
    """What opens the sheet."""
    cell = Cell(text="sheet", workings=WorkingsOf(figure=FIGURE))
    row = [words("Residuals and influence"), cell]
    table = Table(label=TITLE, keys=["what", "sheet"], rows=[row])
    about = (
        "To sort and save here; Prepare saves them beside the prepared rows, as CSV and Parquet."
    )
    return Section(id=SectionId.VALUES, title=TITLE, blocks=[table, quiet(about)])


def _work(
    cohort: Cohort, model_statement: Mapping[str, StageStatement], about: Nothing
) -> Workings:
    return rows_sheet(cohort, statement_of(model_statement, ModelStatement))


ROWS = ExplainedNumber(FIGURE, Nothing, _work)

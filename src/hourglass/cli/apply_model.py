"""A model of a plan applied to another file: no server, no database."""

from collections.abc import Iterator
from pathlib import Path
from typing import cast

from hourglass.analysis.applied.readouts import AppliedResult, applied_in_words
from hourglass.analysis.applied.run import applied, applied_columns
from hourglass.analysis.model.statement import ModelStatement
from hourglass.analysis.shared.sections import Table, Words
from hourglass.cli.machine import announce
from hourglass.cli.out_folder import UnusableFolderError, made_ready, write_files
from hourglass.cli.run_plan import ALL_FITS, NO_FOLDER, NO_PLAN, NOT_ALL_FITS, made_of, read_plan
from hourglass.core.errors import HourglassError
from hourglass.report.prepared import prepared_csv
from hourglass.report.print.figure import Printable
from hourglass.report.print.files import print_figures
from hourglass.report.print.settings import PrintSettings
from hourglass.study.applied_model import NoSuchModelError, model_of


def apply_model(
    plan_file: Path,
    data_file: Path,
    other_file: Path,
    letter: str,
    time: float | None,
    out: Path,
    *,
    replace: bool = False,
) -> int:
    """Write the predictions of a model for the rows of another file, prepared alike; gives the exit code."""
    plan = read_plan(plan_file)
    if plan is None:
        return NO_PLAN
    try:
        out = made_ready(out, replace=replace)
    except UnusableFolderError as why:
        announce(str(why))
        return NO_FOLDER
    own, other = made_of(plan, data_file), made_of(plan, other_file)
    if isinstance(own, int):
        return own
    if isinstance(other, int):
        return other
    statement = own.results.statement(own.study, own.study.analysis("model"))
    try:
        model = model_of(cast(ModelStatement, statement), letter)
    except NoSuchModelError as why:
        announce(str(why))
        return NO_PLAN
    try:
        found = applied(own.cohort, model, other.cohort, time)
    except HourglassError as why:
        announce(f"The model cannot be applied: {why}.")
        return NOT_ALL_FITS
    shown = applied_in_words(own.cohort, model, other.cohort, found)
    rows = prepared_csv(other.cohort, True, applied_columns(other.cohort, found))
    result = shown.model_copy(update={"figure": None}).model_dump_json(indent=1)
    files = {"applied.json": result.encode(), "predictions.csv": rows}
    if shown.figure is not None:
        drawn = [Printable(shown.figure, PrintSettings(height=120), ())]
        files |= {f"calibration.{form}": print_figures(drawn, form) for form in ("svg", "pdf")}
    write_files(out, files)
    for line in _lines(shown):
        print(line)
    return ALL_FITS


def _lines(shown: AppliedResult) -> Iterator[str]:
    """What came of it, a line each: rows, those left out and why, concordance, calibration."""
    for section in shown.sections:
        for block in section.blocks:
            if isinstance(block, Words):
                yield block.text
            elif isinstance(block, Table) and block.head:
                yield f"{section.title}: {' · '.join(h for h in block.head if h)}"
                yield from (f"  {' · '.join(c.text for c in row if c.text)}" for row in block.rows)
            elif isinstance(block, Table):
                yield from (f"{row[0].text}: {row[1].text}" for row in block.rows)

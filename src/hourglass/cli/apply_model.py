"""A model of a plan applied to another file: no server, no database."""

from pathlib import Path
from typing import cast

from hourglass.analysis.applied.readings import told_of
from hourglass.analysis.applied.run import applied, applied_columns
from hourglass.analysis.model.statement import ModelStatement
from hourglass.cli.machine import say
from hourglass.cli.run_plan import ALL_FITS, NO_PLAN, NOT_ALL_FITS, made_of, read_plan, write_files
from hourglass.cohort.table import NoSuchColumnError
from hourglass.report.prepared import prepared_csv
from hourglass.report.print.figure import Printable
from hourglass.report.print.files import print_figures
from hourglass.report.print.settings import PrintSettings
from hourglass.study.applied_model import NoSuchModelError, model_of


def apply_model(
    plan_file: Path, data_file: Path, other_file: Path, letter: str, time: float | None, out: Path
) -> int:
    """Write what a model says of the rows of another file, prepared alike; gives the exit code."""
    plan = read_plan(plan_file)
    if plan is None:
        return NO_PLAN
    own, other = made_of(plan, data_file), made_of(plan, other_file)
    if isinstance(own, int):
        return own
    if isinstance(other, int):
        return other
    statement = own.results.statement(own.study, own.study.analysis("model"), own.cohort)
    try:
        model = model_of(cast(ModelStatement, statement), letter)
    except NoSuchModelError as why:
        say(str(why))
        return NO_PLAN
    try:
        found = applied(own.cohort, model, other.cohort, time)
    except (ValueError, NoSuchColumnError) as why:
        say(f"The model cannot be applied: {why}.")
        return NOT_ALL_FITS
    told = told_of(own.cohort, model, other.cohort, found)
    rows = prepared_csv(other.cohort, True, applied_columns(other.cohort, found))
    result = told.model_copy(update={"figure": None}).model_dump_json(indent=1)
    files = {"applied.json": result.encode(), "predictions.csv": rows}
    if told.figure is not None:
        drawn = [Printable(told.figure, PrintSettings(height=120), ())]
        files |= {f"calibration.{form}": print_figures(drawn, form) for form in ("svg", "pdf")}
    write_files(out, files)
    return ALL_FITS

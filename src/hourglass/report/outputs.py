"""Everything that a study comes to, as files: the report, its tables and figures, rows and results."""

import json
from collections.abc import Callable, Mapping

from hourglass.analysis.check.row_values import model_columns
from hourglass.analysis.estimate.row_values import curve_columns
from hourglass.analysis.estimate.statement import EstimateStatement
from hourglass.analysis.model.statement import ModelStatement
from hourglass.analysis.shared.declared import statement_of
from hourglass.analysis.shared.result import StageResult
from hourglass.analysis.shared.statement import StageStatement
from hourglass.cohort.followup import Cohort
from hourglass.cohort.table import Column
from hourglass.core.errors import NotEstimableError
from hourglass.core.progress import ProgressCallback
from hourglass.report.composed import Composed, composed
from hourglass.report.formats.registry import FORMS
from hourglass.report.gathering import report_statement
from hourglass.report.inputs import ReportInputs
from hourglass.report.ledger_out import ledger_svg, ledger_text
from hourglass.report.pieces.piece import Pieces
from hourglass.report.prepared import codebook_csv, prepared_csv, prepared_parquet
from hourglass.report.print.files import print_figures
from hourglass.report.tables import to_csv
from hourglass.study.actions.action import REPORT
from hourglass.study.plans.placing import plan_naming_rows
from hourglass.study.results import Results
from hourglass.study.study import Study
from hourglass.study.tasks import formed

RESULTS_FORMAT = "olden-hourglass results"
RESULTS_VERSION = 3
"""Of results.json; docs/renamed.md states what each version changed."""


def outputs(
    results: Results, pieces: Pieces, study: Study, found: ReportInputs, progress: ProgressCallback
) -> dict[str, bytes]:
    """Files by their names, in the order they are shown; the same study gives the same bytes.

    Args:
        found: what the study's report is made of.
    """
    source = results.source(study)
    cohort = formed(source)
    statement = report_statement(study.analysis(REPORT))
    made = composed(found, statement, pieces)
    progress("writing", 0.9)
    beside = _beside(cohort, found.statements, found)
    ledger = found.prepare.ledger
    files = {f"report.{form.key}": form.write(made) for form in FORMS}
    files |= _tables(made) | _figures(made)
    files["rows.csv"] = prepared_csv(cohort, True, beside)
    files["rows.parquet"] = prepared_parquet(cohort, beside)
    files["codebook.csv"] = codebook_csv(cohort, source.table(), study.active)
    files["where-the-rows-went.txt"] = _blobs(ledger_text(ledger))
    files["where-the-rows-went.svg"] = _blobs(ledger_svg(ledger))
    files["results.json"] = results_json(found)
    files["plan.json"] = _blobs(plan_naming_rows(results, study).model_dump_json(indent=1))
    return files


def results_json(found: ReportInputs) -> bytes:
    """Every result and part at full precision, as the server sends them, and the prepared cohort."""
    results = {key: result.model_dump(mode="json") for key, result in found.results.items()}
    results["prepare"] = found.prepare.model_dump(mode="json")
    if found.described is not None:
        results["baseline"] = found.described.model_dump(mode="json")
    body = {"format": RESULTS_FORMAT, "version": RESULTS_VERSION, "results": results}
    return _blobs(json.dumps(body, ensure_ascii=False, allow_nan=False, indent=1, sort_keys=True))


def _tables(made: Composed) -> dict[str, bytes]:
    return {f"tables/{table.key}.csv": _blobs("\ufeff" + to_csv(table)) for table in made.tables}


def _figures(made: Composed) -> dict[str, bytes]:
    return {
        f"figures/{piece.figure.key}.{form}": print_figures([piece.figure.drawing], form)
        for piece in made.pieces
        if piece.figure is not None
        for form in ("svg", "pdf")
    }


def _beside(
    cohort: Cohort, statements: Mapping[str, StageStatement], found: ReportInputs
) -> tuple[Column, ...]:
    """The values of the curve and of the model for each row, of the stages that somebody opened."""
    columns: tuple[Column, ...] = ()
    if isinstance(found.results.get("estimate"), StageResult):
        columns += _where_known(
            lambda: curve_columns(cohort, statement_of(statements, EstimateStatement))
        )
    if found.stage("model") is not None:
        columns += _where_known(
            lambda: model_columns(cohort, statement_of(statements, ModelStatement))
        )
    return columns


def _where_known(columns: Callable[[], tuple[Column, ...]]) -> tuple[Column, ...]:
    try:
        return columns()
    except NotEstimableError:
        return ()


def _blobs(text: str | bytes) -> bytes:
    return text.encode() if isinstance(text, str) else text

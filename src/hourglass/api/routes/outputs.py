"""Describe, and what can be taken away: the prepared table, its codebook, the ledger, the report."""

from typing import Annotated, Literal

from fastapi import APIRouter, Query, Request
from fastapi.responses import Response

from hourglass.analysis.check.row_values import model_columns
from hourglass.analysis.estimate.row_values import curve_columns
from hourglass.analysis.estimate.statement import EstimateStatement
from hourglass.analysis.model.statement import ModelStatement
from hourglass.analysis.prepare.describe import DescribeResult
from hourglass.analysis.prepare.result import PrepareResult
from hourglass.analysis.shared.declared import statement_of
from hourglass.analysis.shared.frozen_model import FrozenModel
from hourglass.api.downloads import attachment, download
from hourglass.api.found_study import FoundStudy, ReadyStudy
from hourglass.api.problems import ProblemError
from hourglass.api.replies import (
    StageReply,
    answer_or_work,
    blocked_reply,
    found_or_under_way,
    opened,
    reply_with,
)
from hourglass.api.state import State
from hourglass.cohort.followup import Cohort
from hourglass.cohort.table import Column
from hourglass.core.errors import NotEstimableError
from hourglass.core.progress import no_progress
from hourglass.report.baseline import baseline_csv
from hourglass.report.formats.form import ReportForm
from hourglass.report.formats.registry import FORMS
from hourglass.report.gathering import report_statement
from hourglass.report.ledger_out import ledger_svg, ledger_text
from hourglass.report.prepared import codebook_csv, prepared_csv, prepared_parquet
from hourglass.report.report_result import ReportResult
from hourglass.report.reporting import MakeFile, composed_now, report_request
from hourglass.report.statement import ReportStatement
from hourglass.report.tables import to_csv
from hourglass.study.actions.action import REPORT
from hourglass.study.study import Study
from hourglass.study.work import Work, WorkView

router = APIRouter(tags=["outputs"])
Id = Annotated[int | None, Query(description="The report; the first when absent.")]
By = Annotated[str | None, Query(max_length=300)]
Cells = Literal["harmless", "exact"]
Beside = Literal["none", "curve", "model"]
SAVED_POLICY = (
    "default-src 'none'; style-src 'unsafe-inline'; img-src data:; font-src data:; "
    "frame-ancestors 'self'"
)


class DescribeReply(FrozenModel):
    """The description, or the work that will bring it."""

    result: DescribeResult | None = None
    work: WorkView | None = None


@router.get("/api/studies/{study_id}/describe")
def describe_study(request: Request, ready: ReadyStudy, by: By = None) -> DescribeReply:
    """Who is in the groups: a baseline table, distributions, relation to follow-up."""
    state: State = request.app.state.hourglass
    described, work = answer_or_work(state.results.describe(ready.study, by))
    return DescribeReply(result=described, work=work)


@router.get("/api/studies/{study_id}/describe.csv")
def describe_csv(request: Request, ready: ReadyStudy, by: By = None) -> Response:
    """The baseline table at full precision."""
    study = ready.study
    state: State = request.app.state.hourglass
    found = state.results.described(study, by)
    return download(baseline_csv(found), "text/csv", study.name, "baseline.csv")


@router.get("/api/studies/{study_id}/prepared.csv")
def prepared(
    request: Request, ready: ReadyStudy, cells: Cells = "harmless", values: Beside = "none"
) -> Response:
    """The prepared table, with each row's time and end; beside them the values of the curve or of the
    model for each row."""
    state: State = request.app.state.hourglass
    study, _, cohort = ready
    data = prepared_csv(cohort, cells == "harmless", _beside(state, study, cohort, values))
    return download(data, "text/csv", study.name, "prepared.csv")


@router.get("/api/studies/{study_id}/prepared.parquet")
def prepared_columns(request: Request, ready: ReadyStudy, values: Beside = "none") -> Response:
    """The prepared table in a columnar format, its codebook inside."""
    state: State = request.app.state.hourglass
    study, _, cohort = ready
    data = prepared_parquet(cohort, _beside(state, study, cohort, values))
    return download(data, "application/vnd.apache.parquet", study.name, "prepared.parquet")


def _beside(state: State, study: Study, cohort: Cohort, values: Beside) -> tuple[Column, ...]:
    """The columns that were requested beside the prepared ones."""
    if values == "none":
        return ()
    stage: str = "estimate" if values == "curve" else values
    stated = {stage: state.results.statement(study, study.analysis(stage))}
    try:
        if values == "model":
            return model_columns(cohort, statement_of(stated, ModelStatement))
        return curve_columns(cohort, statement_of(stated, EstimateStatement))
    except NotEstimableError as reason:
        title = f"No {values}"
        raise ProblemError(409, f"no-{values}", title, str(reason)) from None


@router.get("/api/studies/{study_id}/codebook.csv")
def codebook(request: Request, ready: ReadyStudy) -> Response:
    """What every column of the prepared table is."""
    study, source, cohort = ready
    data = codebook_csv(cohort, source.table(), study.active)
    return download(data, "text/csv", study.name, "codebook.csv")


@router.get("/api/studies/{study_id}/ledger.{kind}")
def ledger(request: Request, study: FoundStudy, kind: str) -> Response:
    """Rows read, set aside and analysed, as a figure or as text."""
    state: State = request.app.state.hourglass
    if study.file is None or kind not in ("svg", "txt"):
        raise ProblemError(404, "no-ledger", "No ledger", "There is no such ledger.")
    found: PrepareResult = state.results.now(study, state.results.of_prepare(study)).result
    if kind == "svg":
        return download(ledger_svg(found.ledger), "image/svg+xml", study.name, "rows.svg")
    return download(ledger_text(found.ledger), "text/plain", study.name, "rows.txt")


@router.get(
    "/api/studies/{study_id}/report", response_model=StageReply[ReportResult, ReportStatement]
)
def report(request: Request, study: FoundStudy, analysis: Id = None) -> Response:
    """A report as it is composed."""
    state: State = request.app.state.hourglass
    blocked = blocked_reply(state, study, REPORT)
    if blocked is not None:
        return blocked
    study, own = opened(state, study, REPORT, analysis)
    result_request = report_request(state.results, state.pieces, study, own)
    found = found_or_under_way(state, study, result_request, state.waiting)
    return reply_with(study, found, report_statement(own), own.id)


class SavedReply(FrozenModel):
    """Whether a report is written, or the work that writes it."""

    ready: bool
    work: WorkView | None = None


def _form(key: str) -> ReportForm:
    form = next((one for one in FORMS if one.key == key), None)
    if form is None:
        known = ", ".join(one.key for one in FORMS)
        raise ProblemError(404, "no-form", "No such form", f"A report is saved as {known}.")
    return form


def _file(state: State, study: Study, form: ReportForm, analysis: int | None) -> bytes | Work:
    own = study.analysis(REPORT, analysis)
    task = MakeFile(state.results, state.pieces, study, own, form.key)
    return state.results.answer(task.key, task, state.waiting)


@router.get("/api/studies/{study_id}/report.{form}/ready")
def report_ready(request: Request, ready: ReadyStudy, form: str, analysis: Id = None) -> SavedReply:
    """Have a report written, and answer whether it is: what it is saved as is then there at once."""
    found = _file(request.app.state.hourglass, ready.study, _form(form), analysis)
    written, work = answer_or_work(found)
    return SavedReply(ready=written is not None, work=work)


@router.get("/api/studies/{study_id}/report.{form}", response_class=Response)
def saved_report(request: Request, ready: ReadyStudy, form: str, analysis: Id = None) -> Response:
    """A report as a file: html, pdf, docx, md, or all its tables as xlsx; waits until it is written."""
    chosen = _form(form)
    found = _file(request.app.state.hourglass, ready.study, chosen, analysis)
    return Response(
        found.future.result() if isinstance(found, Work) else found,
        media_type=chosen.media,
        headers={
            "Content-Disposition": attachment(ready.study.name, f"report.{chosen.key}"),
            "Content-Security-Policy": SAVED_POLICY,
        },
    )


@router.get("/api/studies/{study_id}/tables/{key}.csv", response_class=Response)
def saved_table(request: Request, ready: ReadyStudy, key: str, analysis: Id = None) -> Response:
    """A table of a report as CSV at full precision."""
    state: State = request.app.state.hourglass
    study, _, _ = ready
    own = report_statement(study.analysis(REPORT, analysis))
    every = own.model_copy(update={"left_out": (), "length": "complete"})
    made = composed_now(state.results, state.pieces, study, every, no_progress)
    table = next((t for t in made.tables if t.key == key), None)
    if table is None:
        raise ProblemError(404, "no-table", "No such table", "There is no such table yet.")
    return download("\ufeff" + to_csv(table), "text/csv", study.name, f"{table.title}.csv")

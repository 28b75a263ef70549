"""Describe, and what can be taken away: the prepared table, its codebook, the ledger."""

from typing import Annotated, Literal, cast
from uuid import UUID

from fastapi import APIRouter, Query, Request
from fastapi.responses import Response

from hourglass.analysis.describe import DescribeResult, describe
from hourglass.analysis.preparation import PrepareResult
from hourglass.analysis.typed import Typed
from hourglass.api.answers import answer
from hourglass.api.desk import Desk
from hourglass.api.problems import ProblemError
from hourglass.api.routes.stages import ready
from hourglass.api.stage_results import compute, current
from hourglass.api.work import WorkReading
from hourglass.report.baseline import baseline_csv
from hourglass.report.ledger_out import ledger_svg, ledger_text
from hourglass.report.prepared import codebook_csv, prepared_csv, prepared_parquet
from hourglass.store.results import cohort_hash

router = APIRouter(tags=["outputs"])
By = Annotated[str | None, Query(max_length=300)]
Cells = Literal["harmless", "exact"]


class DescribeReply(Typed):
    """The description, or the work that will bring it."""

    result: DescribeResult | None = None
    work: WorkReading | None = None


@router.get("/api/studies/{study_id}/describe")
def describe_study(request: Request, study_id: UUID, by: By = None) -> DescribeReply:
    """Who is in the groups: a baseline table, distributions, relation to follow-up."""
    desk: Desk = request.app.state.desk
    study, cohort = ready(desk, study_id)
    key = ("describe", str(study_id), cohort_hash(study), by or "")
    found = answer(desk, key, lambda watch: describe(cohort, by, watch))
    if isinstance(found, WorkReading):
        return DescribeReply(work=found)
    return DescribeReply(result=found)


@router.get("/api/studies/{study_id}/describe.csv")
def describe_csv(request: Request, study_id: UUID, by: By = None) -> Response:
    """The baseline table at full precision."""
    desk: Desk = request.app.state.desk
    _, cohort = ready(desk, study_id)
    found = describe(cohort, by)
    return _file(baseline_csv(found), "text/csv", "baseline.csv")


@router.get("/api/studies/{study_id}/prepared.csv")
def prepared(request: Request, study_id: UUID, cells: Cells = "harmless") -> Response:
    """The prepared table, with each row's time and end."""
    desk: Desk = request.app.state.desk
    cohort = ready(desk, study_id)[1]
    return _file(prepared_csv(cohort, cells == "harmless"), "text/csv", "prepared.csv")


@router.get("/api/studies/{study_id}/prepared.parquet")
def prepared_columns(request: Request, study_id: UUID) -> Response:
    """The prepared table in a columnar format, its codebook inside."""
    desk: Desk = request.app.state.desk
    data = prepared_parquet(ready(desk, study_id)[1])
    return _file(data, "application/vnd.apache.parquet", "prepared.parquet")


@router.get("/api/studies/{study_id}/codebook.csv")
def codebook(request: Request, study_id: UUID) -> Response:
    """What every column of the prepared table is."""
    desk: Desk = request.app.state.desk
    study, cohort = ready(desk, study_id)
    assert study.file is not None
    return _file(codebook_csv(cohort, desk.table(study), study.active), "text/csv", "codebook.csv")


@router.get("/api/studies/{study_id}/ledger.{kind}")
def ledger(request: Request, study_id: UUID, kind: str) -> Response:
    """Where the rows went, as a figure or as text."""
    desk: Desk = request.app.state.desk
    study = desk.study(study_id)
    if study.file is None or kind not in ("svg", "txt"):
        raise ProblemError(404, "no-ledger", "No ledger", "There is no such ledger.")
    found = current(desk, study, "prepare", PrepareResult)
    if found is None:
        found = cast(PrepareResult, compute(desk, study, "prepare", lambda what, share: None))
    if kind == "svg":
        return _file(ledger_svg(found.ledger).encode(), "image/svg+xml", "rows.svg")
    return _file(ledger_text(found.ledger).encode(), "text/plain", "rows.txt")


def _file(data: bytes, media: str, name: str) -> Response:
    kind = f"{media}; charset=utf-8" if media.startswith("text/") else media
    return Response(
        data, media_type=kind, headers={"Content-Disposition": f'attachment; filename="{name}"'}
    )

"""Results of the later stages, their workings, the report, and work under way."""

from collections.abc import Callable
from typing import Annotated, Any, Literal, cast
from uuid import UUID

from fastapi import APIRouter, Query, Request, Response

from hourglass.analysis.compare import comparison
from hourglass.analysis.curves import Curve, curve_of
from hourglass.analysis.model import fit_model
from hourglass.analysis.registry import ANALYSES, Analysis
from hourglass.analysis.statements import (
    CompareStatement,
    EstimateStatement,
    ModelStatement,
    ReportStatement,
)
from hourglass.analysis.watch import unwatched
from hourglass.analysis.workings.curve import median_workings, survival_workings
from hourglass.analysis.workings.hazard_ratio import hazard_ratio_workings
from hourglass.analysis.workings.log_rank import log_rank_workings
from hourglass.analysis.workings.sheet import NoWorkingsError, Workings
from hourglass.api.desk import Desk
from hourglass.api.problems import ProblemError
from hourglass.api.stage_results import StageReply, findings_of, reply
from hourglass.api.work import WorkReading
from hourglass.cohort.followup import Cohort
from hourglass.report.document import tables, to_html
from hourglass.report.report_result import ReportResult
from hourglass.report.tables import to_csv
from hourglass.store.studies import Study

router = APIRouter(tags=["stages"])
SAVED_POLICY = (
    "default-src 'none'; style-src 'unsafe-inline'; img-src data:; frame-ancestors 'self'"
)


def _result_of(analysis: Analysis) -> Callable[[Request, UUID], StageReply[Any]]:
    def result(request: Request, study_id: UUID) -> StageReply[Any]:
        return reply(request.app.state.desk, study_id, analysis.name, analysis.result)

    return result


for _analysis in ANALYSES:
    router.add_api_route(
        f"/api/studies/{{study_id}}/{_analysis.name}",
        _result_of(_analysis),
        response_model=StageReply[_analysis.result],  # type: ignore[name-defined]
        name=_analysis.name,
        description=_analysis.about,
    )


@router.get("/api/studies/{study_id}/report")
def report(request: Request, study_id: UUID) -> StageReply[ReportResult]:
    """The report as a page."""
    return reply(request.app.state.desk, study_id, "report", ReportResult)


@router.get("/api/studies/{study_id}/report.html", response_class=Response)
def saved_report(request: Request, study_id: UUID) -> Response:
    """The report as one self-contained file."""
    desk: Desk = request.app.state.desk
    study, cohort = ready(desk, study_id)
    asked = cast(ReportStatement, desk.statement(study, "report", cohort))
    html = to_html(findings_of(desk, study, unwatched), asked)
    return Response(
        html,
        media_type="text/html",
        headers={
            "Content-Disposition": 'attachment; filename="report.html"',
            "Content-Security-Policy": SAVED_POLICY,
        },
    )


@router.get("/api/studies/{study_id}/tables/{key}.csv", response_class=Response)
def saved_table(
    request: Request, study_id: UUID, key: Literal["rows", "groups", "ratios", "checks"]
) -> Response:
    """A table of the report as CSV at full precision."""
    desk: Desk = request.app.state.desk
    study, _ = ready(desk, study_id)
    made = tables(findings_of(desk, study, unwatched), ReportStatement())
    table = next((t for t in made if t.key == key), None)
    if table is None:
        raise ProblemError(404, "no-table", "No such table", "There is no such table yet.")
    return Response(
        "\ufeff" + to_csv(table),
        media_type="text/csv; charset=utf-8",
        headers={"Content-Disposition": f'attachment; filename="{key}.csv"'},
    )


@router.get("/api/studies/{study_id}/workings/survival")
def survival(
    request: Request,
    study_id: UUID,
    t: Annotated[float, Query(ge=0, allow_inf_nan=False)],
    group: Annotated[int | None, Query(ge=0)] = None,
) -> Workings:
    """How survival at a time arose, for everyone or for a group."""
    curve, cohort = _curve(request, study_id, group)
    statement = cohort.statement
    return survival_workings(curve, t, statement.unit, statement.event_name)


@router.get("/api/studies/{study_id}/workings/median")
def median(
    request: Request, study_id: UUID, group: Annotated[int | None, Query(ge=0)] = None
) -> Workings:
    """How a median arose."""
    curve, cohort = _curve(request, study_id, group)
    return median_workings(curve, cohort.statement.unit, cohort.time_digits)


@router.get("/api/studies/{study_id}/workings/log-rank")
def log_rank(request: Request, study_id: UUID) -> Workings:
    """How the log-rank statistic arose."""
    desk: Desk = request.app.state.desk
    study, cohort = ready(desk, study_id)
    asked = cast(CompareStatement, desk.statement(study, "compare", cohort))
    if asked.by is None:
        raise NoWorkingsError("no groups are compared")
    return log_rank_workings(comparison(cohort, asked))


@router.get("/api/studies/{study_id}/workings/hazard-ratio")
def hazard_ratio(request: Request, study_id: UUID, column: Annotated[int, Query(ge=0)]) -> Workings:
    """How a hazard ratio arose."""
    desk: Desk = request.app.state.desk
    study, cohort = ready(desk, study_id)
    asked = cast(ModelStatement, desk.statement(study, "model", cohort))
    return hazard_ratio_workings(fit_model(cohort, asked), column, asked.level)


@router.get("/api/work/{work}")
def work_under_way(request: Request, work: str) -> WorkReading | None:
    """Where a piece of work is; null when it has ended or is not known."""
    desk: Desk = request.app.state.desk
    found = desk.workshop.find(work)
    return None if found is None or found.future.done() else found.reading()


@router.delete("/api/work/{work}", status_code=204)
def cancel_work(request: Request, work: str) -> None:
    """Cancel a piece of work."""
    desk: Desk = request.app.state.desk
    found = desk.workshop.find(work)
    if found is not None:
        found.cancel()


def _curve(request: Request, study_id: UUID, group: int | None) -> tuple[Curve, Cohort]:
    desk: Desk = request.app.state.desk
    study, cohort = ready(desk, study_id)
    if group is None:
        level = cast(EstimateStatement, desk.statement(study, "estimate", cohort)).level
        return curve_of(cohort.follow_up, level, "everyone", -1), cohort
    asked = cast(CompareStatement, desk.statement(study, "compare", cohort))
    curves = () if asked.by is None else comparison(cohort, asked).curves
    if group >= len(curves):
        raise NoWorkingsError(f"there is no group {group}")
    return curves[group], cohort


def ready(desk: Desk, study_id: UUID) -> tuple[Study, Cohort]:
    """The study and its cohort, which Prepare must have formed."""
    study = desk.study(study_id)
    cohort = desk.cohort(study)
    if not isinstance(cohort, Cohort):
        raise ProblemError(409, "waits-for-prepare", "Prepare is not done", cohort[0].sentence)
    return study, cohort

"""A kept model applied to another study."""

from dataclasses import dataclass
from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Depends, Query, Request
from fastapi.responses import Response

from hourglass.analysis.applied.readouts import AppliedResult
from hourglass.analysis.applied.run import applied, applied_columns
from hourglass.analysis.model.statement import HazardsModel, ModelStatement
from hourglass.analysis.shared.declared import statement_of
from hourglass.analysis.shared.frozen_model import FrozenModel
from hourglass.api.downloads import download
from hourglass.api.found_study import ReadyStudy, Role, study_for
from hourglass.api.found_study import ready as formed
from hourglass.api.problems import ProblemError
from hourglass.api.replies import answer_or_work
from hourglass.api.state import State
from hourglass.cohort.followup import Cohort
from hourglass.core.errors import HourglassError
from hourglass.report.prepared import prepared_csv
from hourglass.report.print.figure import Printable
from hourglass.report.print.files import inline_svg
from hourglass.report.print.settings import PrintSettings
from hourglass.study.applied_model import RunApplied, model_of
from hourglass.study.hashes import hash_of
from hourglass.study.source import Source
from hourglass.study.study import Study
from hourglass.study.work import WorkView

router = APIRouter(tags=["model"])
To = Annotated[UUID, Query(description="The study that the model is applied to.")]
Letter = Annotated[
    str, Query(pattern="^[A-Z]?$", description="A kept model; the one shown if blank.")
]
Time = Annotated[float | None, Query(gt=0, description="At which survival is predicted.")]


class AppliedView(FrozenModel):
    """What comes of it, with the figure drawn."""

    result: AppliedResult
    svg: str


class AppliedReply(FrozenModel):
    """The model on the other rows, or the work that will bring it."""

    applied: AppliedView | None = None
    work: WorkView | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class _AppliedQuery:
    """A model of a study, and the study that it is applied to, both with their cohorts."""

    state: State
    own: Source
    cohort: Cohort
    model: HazardsModel
    to: Study
    other: Source
    rows: Cohort
    time: float | None


def _applied_query(
    request: Request, ready: ReadyStudy, to: To, letter: Letter = "", time: Time = None
) -> _AppliedQuery:
    state: State = request.app.state.hourglass
    study, own, cohort = ready
    stated = {"model": state.results.statement(study, study.analysis("model"))}
    statement = statement_of(stated, ModelStatement)
    study_to, other, rows = formed(state, study_for(state, to, Role.LOOK))
    return _AppliedQuery(
        state=state,
        own=own,
        cohort=cohort,
        model=model_of(statement, letter),
        to=study_to,
        other=other,
        rows=rows,
        time=time,
    )


AppliedQuery = Annotated[_AppliedQuery, Depends(_applied_query)]


@router.get("/api/studies/{study_id}/applied-model")
def applied_model(query: AppliedQuery) -> AppliedReply:
    """A model of the study on the rows of another: predictions, concordance, calibration there."""
    own, other, model, time = query.own, query.other, query.model, query.time
    key = ("applied", own.hash, other.hash, hash_of(model.model_dump(mode="json"), time))
    found = query.state.results.answer(key, RunApplied(own, other, model, time))
    done, work = answer_or_work(found)
    return AppliedReply(work=work) if done is None else _reply(done)


@router.get("/api/studies/{study_id}/applied-model.csv", response_class=Response)
def predictions(query: AppliedQuery) -> Response:
    """The other study's prepared rows with the model's predictions beside them."""
    try:
        found = applied(query.cohort, query.model, query.rows, query.time)
    except HourglassError as why:
        raise ProblemError(409, "not-applied", "The model cannot be applied", str(why)) from None
    data = prepared_csv(query.rows, True, applied_columns(query.rows, found))
    return download(data, "text/csv", query.to.name, "predictions.csv")


def _reply(found: AppliedResult) -> AppliedReply:
    svg = ""
    if found.figure is not None:
        svg = inline_svg(Printable(found.figure, PrintSettings(width=120, height=100), ()))
    return AppliedReply(
        applied=AppliedView(result=found.model_copy(update={"figure": None}), svg=svg)
    )

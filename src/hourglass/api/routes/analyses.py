"""The stages' results, their parts and workings, and the analyses themselves.

The routes are made from the table of stages: a new stage needs none of its own.
"""

from collections.abc import Callable
from functools import reduce
from operator import or_
from typing import Annotated, Any

from fastapi import APIRouter, Body, Query, Request, Response
from pydantic import BaseModel, Field, create_model

from hourglass.analysis.shared.beside_views import readouts_beside
from hourglass.analysis.shared.frozen_model import FrozenModel
from hourglass.analysis.shared.parts import DeferredSection
from hourglass.analysis.shared.sections import Section
from hourglass.analysis.shared.stage import Stage, Stages
from hourglass.analysis.shared.statement import StageStatement
from hourglass.analysis.shared.workings import PAGE, ExplainedNumber, Workings, WorkingsPage
from hourglass.api.changes import Change
from hourglass.api.downloads import Between, lines_between
from hourglass.api.found_study import FoundStudy, require_input
from hourglass.api.problems import ProblemError
from hourglass.api.replies import (
    PartReply,
    StageReply,
    found_or_under_way,
    opened,
    part_reply,
    stage_reply,
    within_a_moment,
)
from hourglass.api.state import State, having_file
from hourglass.cohort.table import NO_TABLE, Table
from hourglass.report.statement import ReportStatement
from hourglass.study.actions.action import REPORT
from hourglass.study.commands.statements import arrange_analysis, begin_analysis, remove_analysis
from hourglass.study.commands.statements import state as put
from hourglass.study.study import Study
from hourglass.study.tasks import RunWorkings
from hourglass.study.views import letters
from hourglass.study.work import Work, WorkView

MAX_BESIDE = 6
"""Views that can stand beside each other."""
Id = Annotated[int | None, Query(description="The analysis; the first of its stage when absent.")]
Together = Annotated[list[int], Query(min_length=2, max_length=MAX_BESIDE)]
Name = Annotated[str, Field(max_length=200)]


class WorkingsReply(FrozenModel):
    """Workings with a page of their terms, or the work that will bring them."""

    result: WorkingsPage | None = None
    work: WorkView | None = None


class BesideReply(FrozenModel):
    """The readings of several views in one table each, or the work that will bring those of one."""

    sections: list[Section] | None = None
    work: WorkView | None = None


class _Sided(BaseModel):
    """What is read of a result for its readings to stand beside others."""

    sections: list[Section]


class NewAnalysis(FrozenModel):
    """An analysis to begin, as a copy of another of its stage if one is named."""

    stage: str
    name: Name = ""
    copy_of: int | None = None


class AnalysisMade(FrozenModel):
    """The id of an analysis."""

    id: int


class AnalysisArrangement(FrozenModel):
    """What an analysis is called, its place, and the analyses it follows from, by stage."""

    name: Name = ""
    position: Annotated[int, Field(ge=0, le=10_000)] = 0
    needs: dict[str, int] = Field(default_factory=dict)


def router(stages: Stages) -> APIRouter:
    """The routes of all stages."""
    made = APIRouter(tags=["stages"])
    for stage in stages:
        _add_stage(made, stage)
    _add_statement(made, stages)
    for path, method, status, route in (
        ("", "POST", 201, begin),
        ("/{analysis_id}", "PATCH", 204, arrange),
        ("/{analysis_id}", "DELETE", 204, remove),
    ):
        made.add_api_route(
            f"/api/studies/{{study_id}}/analyses{path}", route, methods=[method], status_code=status
        )
    return made


def _add_stage(made: APIRouter, stage: Stage) -> None:
    address = f"/api/studies/{{study_id}}/{stage.name}"
    made.add_api_route(
        address,
        _result(stage),
        response_model=StageReply[stage.result, stage.statement],  # type: ignore[name-defined]
        name=stage.name,
        description=stage.about,
    )
    made.add_api_route(
        f"{address}/beside",
        _beside(stage),
        response_model=BesideReply,
        name=f"{stage.name}_beside",
        description=f"The readings of several views of {stage.title} in one table each.",
    )
    for part in stage.parts:
        made.add_api_route(
            f"{address}/parts/{part.key}",
            _part(stage, part),
            response_model=PartReply[part.result],  # type: ignore[name-defined]
            name=f"{stage.name}_{part.key}",
            description=f"{part.title}, a part of {stage.title}.",
        )
    for figure in stage.workings:
        named = f"{stage.name}_workings_{figure.key.replace('-', '_')}"
        made.add_api_route(
            f"{address}/workings/{figure.key}",
            _workings(stage, figure),
            response_model=WorkingsReply,
            name=named,
            description=f"How {figure.key} arose.",
        )
        made.add_api_route(
            f"{address}/workings/{figure.key}.csv",
            _workings_csv(stage, figure),
            response_class=Response,
            name=f"{named}_csv",
            description=f"All terms of {figure.key}, at full precision.",
        )


def _result(stage: Stage) -> Callable[..., Response]:
    def result(request: Request, study: FoundStudy, analysis: Id = None) -> Response:
        return stage_reply(request.app.state.hourglass, study, stage.name, analysis)

    return result


def _beside(stage: Stage) -> Callable[..., BesideReply]:
    def result(request: Request, study: FoundStudy, analyses: Together) -> BesideReply:
        state: State = request.app.state.hourglass
        require_input(state, study, stage.name)
        views = []
        for id in analyses:
            study, analysis = opened(state, study, stage.name, id)
            found = found_or_under_way(state, study, state.results.of_stage(study, analysis))
            if isinstance(found, WorkView):
                return BesideReply(work=found)
            views.append(_Sided.model_validate_json(found).sections)
        letter = letters(study, stage.name)
        return BesideReply(sections=readouts_beside([letter[id] for id in analyses], views))

    return result


def _part(stage: Stage, part: DeferredSection) -> Callable[..., Response]:
    def result(request: Request, study: FoundStudy, analysis: Id = None) -> Response:
        return part_reply(request.app.state.hourglass, study, stage.name, part.key, analysis)

    return result


class _WorkingsQuery(FrozenModel):
    """What every request for workings may hold besides the parameters of the figure.

    ``by`` is the place of the column that the terms are sorted by, if they are.
    """

    analysis: int | None = None
    by: Annotated[int | None, Field(ge=0)] = None
    descending: bool = False

    def sort(self, found: Workings) -> Workings:
        """The terms in the order that is requested."""
        return found if self.by is None else found.sorted(self.by, descending=self.descending)


class _FileQuery(_WorkingsQuery):
    """And whether it is for a file, or for the clipboard."""

    between: Between = "commas"


class _PageQuery(_WorkingsQuery):
    """And the page of terms that is wanted."""

    first: Annotated[int, Field(ge=0)] = 0
    most: Annotated[int, Field(ge=1, le=1000)] = PAGE


def _query_with(figure: ExplainedNumber, stage: Stage, more: type[_WorkingsQuery]) -> Any:
    """One type of all that an address may hold: only one can be read from a query."""
    name = f"{stage.title}{figure.about.__name__}{more.__name__.lstrip('_')}"
    return Annotated[create_model(name, __base__=(figure.about, more)), Query()]


def _workings(stage: Stage, figure: ExplainedNumber) -> Callable[..., Any]:
    def workings(request: Request, study: FoundStudy, query: Any) -> WorkingsReply:
        found = _worked(request, study, stage, figure, query)
        if isinstance(found, Work):
            worked: Workings | None = within_a_moment(found)
            if worked is None:
                return WorkingsReply(work=found.reading())
            found = worked
        return WorkingsReply(result=query.sort(found).page(query.first, query.most))

    workings.__annotations__["query"] = _query_with(figure, stage, _PageQuery)
    return workings


def _workings_csv(stage: Stage, figure: ExplainedNumber) -> Callable[..., Response]:
    def workings(request: Request, study: FoundStudy, query: Any) -> Response:
        found = _worked(request, study, stage, figure, query)
        worked: Workings = found.future.result() if isinstance(found, Work) else found
        lines = list(query.sort(worked).lines())
        name = f"{stage.title} {worked.title.partition(':')[0]}"
        return lines_between(query.between, lines, study.name, name)

    workings.__annotations__["query"] = _query_with(figure, stage, _FileQuery)
    return workings


def _worked(
    request: Request, study: Study, stage: Stage, figure: ExplainedNumber, query: _WorkingsQuery
) -> Workings | Work:
    state: State = request.app.state.hourglass
    require_input(state, study, stage.name)
    analysis = study.analysis(stage.name, query.analysis)
    given = query.model_dump(include=set(figure.about.model_fields))
    about = figure.about.model_validate(given)
    statements = state.results.statements_of(study, stage, analysis)
    shown = state.results.of_stage(study, analysis).key
    key = (shown, "workings", figure.key, about.model_dump_json())
    source = state.results.source(study)
    return state.results.answer(key, RunWorkings(source, stage, figure, statements, about))


def _add_statement(made: APIRouter, stages: Stages) -> None:
    """The route that puts a statement; its stage is part of it."""
    kinds: list[Any] = [*(stage.statement for stage in stages), ReportStatement]
    any_statement: Any = Annotated[reduce(or_, kinds), Body(discriminator="stage")]

    def put_statement(
        request: Request, change: Change, statement: Any, analysis: Id = None
    ) -> None:
        """Change the statement of an analysis.

        A reference level that it requests becomes a step in Prepare, so that all stages share it.
        """
        state: State = request.app.state.hourglass
        given: StageStatement = statement

        def command(study: Study) -> Study:
            table = _named_in(state, study, given)
            in_effect = state.results.in_effect(study, given.stage, analysis)
            if given.stage == REPORT:
                in_effect = ReportStatement()
            return put(state.repository, study, analysis, given, table, in_effect)

        change.carry_out(command)

    put_statement.__annotations__["statement"] = any_statement
    made.add_api_route(
        "/api/studies/{study_id}/statement", put_statement, methods=["PUT"], status_code=204
    )


def _named_in(state: State, study: Study, given: StageStatement) -> Table:
    """The table whose columns a statement may name; one without columns where a stage needs no data."""
    if study.file is None and state.results.missing(study, given.stage) is None:
        return NO_TABLE
    return state.results.source(having_file(study)).named_columns()


def begin(request: Request, change: Change, new: NewAnalysis) -> AnalysisMade:
    """Begin another analysis of a stage, after those that there are."""
    state: State = request.app.state.hourglass
    if new.stage not in {REPORT, *(stage.name for stage in state.stages)}:
        raise ProblemError(422, "no-such-stage", "No such stage", "There is no such stage.")
    made = 0

    def command(study: Study) -> Study:
        nonlocal made
        body, like = None, new.copy_of
        if like is not None:
            body = study.analysis(new.stage, like).body
        after, made = begin_analysis(state.repository, study, new.stage, new.name, body, like)
        return after

    change.carry_out(command)
    return AnalysisMade(id=made)


def arrange(
    request: Request, change: Change, analysis_id: int, wanted: AnalysisArrangement
) -> None:
    """Name an analysis, move it, or state which others it follows from."""
    state: State = request.app.state.hourglass
    name, position, needs = wanted.name, wanted.position, wanted.needs
    change.carry_out(
        lambda study: arrange_analysis(state.repository, study, analysis_id, name, position, needs)
    )


def remove(request: Request, change: Change, analysis_id: int) -> None:
    """Delete an analysis; undoing brings it back."""
    state: State = request.app.state.hourglass
    change.carry_out(lambda study: remove_analysis(state.repository, study, analysis_id))

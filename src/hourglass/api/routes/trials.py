"""What a statement would draw, while somebody is still choosing it; nothing is kept."""

from functools import reduce
from operator import or_
from typing import Annotated, Any

from fastapi import APIRouter, Body, Request

from hourglass.analysis.shared.stage import Stages, stage_of
from hourglass.analysis.shared.statement import StageStatement
from hourglass.analysis.shared.trial import Trial
from hourglass.api.found_study import FoundStudy, require_input
from hourglass.api.state import State
from hourglass.study.tasks import input_of


def router(stages: Stages) -> APIRouter:
    """The route that tries a statement of any stage that can be tried."""
    made = APIRouter(tags=["stages"])
    kinds: list[Any] = [stage.statement for stage in stages if stage.tries is not None]
    if not kinds:
        return made
    any_statement: Any = Annotated[reduce(or_, kinds), Body(discriminator="stage")]

    def try_statement(request: Request, study: FoundStudy, statement: StageStatement) -> Trial:
        """What a statement would draw that is only tried; no p-value is among it."""
        state: State = request.app.state.hourglass
        require_input(state, study, statement.stage)
        stage = stage_of(state.stages, statement.stage)
        assert stage.tries is not None
        statements = state.results.statements_of(study, stage, study.analysis(stage.name))
        value = input_of(state.results.source(study), stage)
        return stage.tries(value, {**statements, stage.name: statement})

    try_statement.__annotations__["statement"] = any_statement
    made.add_api_route("/api/studies/{study_id}/trial", try_statement, methods=["POST"])
    return made

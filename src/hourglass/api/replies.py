"""Answering with a result: at once if it is there within a moment, else with the work that brings it."""

from collections.abc import Mapping
from concurrent.futures import TimeoutError as StillWorkingError
from typing import Any, Generic, TypeVar

from fastapi.responses import Response
from pydantic import BaseModel

from hourglass.analysis.prepare.result import BlockerView
from hourglass.analysis.shared.frozen_model import FrozenModel
from hourglass.analysis.shared.stage import stage_of
from hourglass.api.found_study import require_input
from hourglass.api.state import State
from hourglass.core.progress import CancelledError
from hourglass.study.made import Made
from hourglass.study.result_request import ResultRequest
from hourglass.study.study import Analysis, Study
from hourglass.study.work import Executor, Work, WorkView

R = TypeVar("R")
S = TypeVar("S")
V = TypeVar("V")
ANSWER_WITHIN = 0.3
"""Seconds a request waits for its result before it answers with a handle to the work."""


class StageReply(FrozenModel, Generic[R, S]):
    """One of: the result with its statement, the work that will bring it, or what blocks it.

    ``revision`` is that of the study it was made for.
    """

    revision: int = 0
    result: R | None = None
    analysis: int | None = None
    statement: S | None = None
    work: WorkView | None = None
    blocked: list[BlockerView] | None = None


class PartReply(FrozenModel, Generic[R]):
    """A part of a result, or the work that will bring it."""

    result: R | None = None
    work: WorkView | None = None


def answer_or_work(found: V | Work) -> tuple[V | None, WorkView | None]:
    """An answer that is there, or comes within a moment; else the work that will bring it.

    Raises:
        CancelledError: when somebody has cancelled the work.
    """
    if not isinstance(found, Work):
        return found, None
    done: V | None = within_a_moment(found)
    return done, found.reading() if done is None else None


def within_a_moment(work: Work) -> Any:
    """What the work brings, or None if it takes longer, or other work has taken its place.

    Raises:
        CancelledError: when somebody has cancelled it.
    """
    try:
        return work.future.result(ANSWER_WITHIN)
    except StillWorkingError:
        return None
    except CancelledError:
        if work.superseded:
            return None
        work.end_known = True
        raise


def found_or_under_way(
    state: State, study: Study, result_request: ResultRequest, executor: Executor | None = None
) -> bytes | WorkView:
    """The body of a result, or where the work on it is."""
    found = state.results.current(result_request)
    if found is None:
        work = state.results.start(study, result_request, executor)
        made: Made | None = within_a_moment(work)
        found = None if made is None else state.results.made_for(result_request, made)
    return work.reading() if found is None else found.body


def reply_with(
    study: Study,
    found: bytes | WorkView,
    statement: BaseModel | None = None,
    analysis: int | None = None,
) -> Response:
    """A :class:`StageReply` as JSON, a kept result put in as it is."""
    return Response(reply_body(study, found, statement, analysis), media_type="application/json")


def reply_body(
    study: Study,
    found: bytes | WorkView,
    statement: BaseModel | None = None,
    analysis: int | None = None,
) -> bytes:
    """The JSON of a :class:`StageReply`: reading a large result only to write it again takes long."""
    fields: dict[str, bytes] = {"result": b"null", "work": b"null", "blocked": b"null"}
    fields["revision"] = str(study.revision).encode()
    fields["analysis"] = b"null" if analysis is None else str(analysis).encode()
    fields["statement"] = b"null" if statement is None else statement.model_dump_json().encode()
    if isinstance(found, WorkView):
        fields["work"] = found.model_dump_json().encode()
    else:
        fields["result"] = found
    return joined(fields)


def joined(fields: Mapping[str, bytes]) -> bytes:
    """A JSON object of fields that are JSON already."""
    body = b",".join(b'"%s":%s' % (name.encode(), value) for name, value in fields.items())
    return b"{" + body + b"}"


def blocked_reply(state: State, study: Study, stage: str) -> Response | None:
    """What must be decided before a stage can show anything; None if nothing must."""
    missing = state.results.missing(study, stage)
    if missing is None:
        return None
    blocks = [BlockerView.model_validate(b) for b in missing.blocks]
    body = StageReply[None, None](blocked=blocks, revision=study.revision).model_dump_json()
    return Response(body, media_type="application/json")


def stage_reply(state: State, study: Study, stage: str, analysis_id: int | None) -> Response:
    """Answer a request for the result of an analysis, within a moment."""
    blocked = blocked_reply(state, study, stage)
    if blocked is not None:
        return blocked
    study, analysis = opened(state, study, stage, analysis_id)
    statement = state.results.statement(study, analysis)
    found = found_or_under_way(state, study, state.results.of_stage(study, analysis))
    return reply_with(study, found, statement, analysis.id)


def opened(
    state: State, study: Study, stage: str, analysis_id: int | None
) -> tuple[Study, Analysis]:
    """The analysis, recorded as one that somebody has looked at."""
    analysis = study.analysis(stage, analysis_id)
    if analysis.id is not None and analysis.opened:
        return study, analysis
    with state.repository.transaction() as inside:
        made = analysis.id or inside.begin_analysis(study.id, stage, begun=False)
        inside.open_analysis(made)
        study = inside.load(study.id)
    return study, study.analysis(stage, made)


def part_reply(
    state: State, study: Study, stage: str, part: str, analysis_id: int | None
) -> Response:
    """Answer a request for a part of a result, within a moment."""
    require_input(state, study, stage)
    stage_of(state.stages, stage).part(part)
    study, analysis = opened(state, study, stage, analysis_id)
    result_request = state.results.of_stage(study, analysis, part)
    return reply_with(study, found_or_under_way(state, study, result_request))

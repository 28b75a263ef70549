"""Changes over HTTP: each says which revision of the study it was made from (RFC 9110, If-Match)."""

from typing import Annotated, Any
from uuid import UUID

from fastapi import Depends, Header, Request, Response
from starlette.concurrency import run_in_threadpool

from hourglass.api.problems import ProblemError
from hourglass.api.state import State, having_file
from hourglass.study.study import StaleError, Study

ANY = "*"
REPLACES = ("PUT", "PATCH", "DELETE")
"""What takes the place of something, or takes it away: never made from whichever revision there is."""


def etag(study: Study) -> str:
    """The revision of a study as a header says it."""
    return f'"{study.revision}"'


class Changing:
    """A study about to be changed; the reply says which revision the change made."""

    def __init__(self, study: Study, response: Response) -> None:
        self.study = study
        self._response = response

    def made(self, study: Study) -> Study:
        """Say that the study is now this."""
        self._response.headers["ETag"] = etag(study)
        return study

    def with_file(self) -> Study:
        """The study, which must have its file."""
        return having_file(self.study)


IfMatch = Annotated[
    str | None,
    Header(description="The revision that the change was made from; * where it only adds."),
]


def named_revision(if_match: str | None) -> int | None:
    """The revision that a header names; None where it names whichever there is.

    Raises:
        ProblemError: where there is no header.
    """
    if if_match is None:
        raise ProblemError(
            428,
            "no-revision",
            "No revision named",
            "A change must say which revision of the study it was made from: send If-Match with the "
            "ETag of the study.",
        )
    return None if if_match.strip() == ANY else _revision(if_match)


async def _changing(
    request: Request, response: Response, study_id: UUID, if_match: IfMatch = None
) -> Changing:
    state: State = request.app.state.hourglass
    revision = named_revision(if_match)
    study = await run_in_threadpool(state.keeping.load, study_id)
    if revision is None and request.method in REPLACES:
        raise ProblemError(
            428,
            "no-revision",
            "No revision named",
            "What this changes takes the place of what somebody may have decided meanwhile: send If-Match "
            "with the ETag of the study as you saw it. * is only for what adds to a study.",
        )
    if revision is not None and revision != study.revision:
        raise StaleError(study, revision)
    return Changing(study, response)


def _revision(if_match: str) -> int:
    named = if_match.strip().removeprefix("W/").strip('"')
    return int(named) if named.isdigit() and len(named) < 19 else 0


Change: Any = Annotated[Changing, Depends(_changing)]
"""The study that a route changes, found to be as its caller last saw it."""

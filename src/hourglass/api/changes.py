"""Changes over HTTP: each states which revision of the study it was made from (RFC 9110, If-Match)."""

from typing import Annotated, Any
from uuid import UUID

from fastapi import Depends, Header, Request, Response

from hourglass.api.found_study import Role, study_for
from hourglass.api.problems import ProblemError
from hourglass.api.state import State
from hourglass.study.rebasing import Command, carried_out
from hourglass.study.study import Study

ANY = "*"
MEANWHILE = "X-Decided-Meanwhile"
"""How many decisions of others a change stands beside, which its caller has not seen."""
REPLACES = ("PUT", "PATCH", "DELETE")
"""What takes the place of something, or takes it away: never made from whichever revision there is."""


def etag(study: Study) -> str:
    """The revision of a study as a header states it."""
    return f'"{study.revision}"'


class Changing:
    """A study about to be changed; the reply states which revision the change made."""

    def __init__(self, state: State, study_id: UUID, seen: int | None, response: Response) -> None:
        self._state, self._study_id, self._seen = state, study_id, seen
        self._response = response
        self._loaded: Study | None = None

    def now(self) -> Study:
        """The study as it is, before anything is done to it.

        Raises:
            StaleError: when it never was at the revision that is named.
        """
        study = self._loaded = study_for(self._state, self._study_id, Role.CHANGE)
        return study if self._seen is None else study.seen_at(self._seen)

    def carry_out(self, command: Command) -> Study:
        """Carry a command out, beside what was decided meanwhile of other parts of the study.

        Raises:
            StaleError: where the same part was changed meanwhile.
        """
        repository, first = self._state.repository, self._loaded
        study = carried_out(repository, self._study_id, self._seen, command, first)
        self._response.headers["ETag"] = etag(study)
        if study.meanwhile:
            self._response.headers[MEANWHILE] = str(len(study.meanwhile))
        return study


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


def _changing(
    request: Request, response: Response, study_id: UUID, if_match: IfMatch = None
) -> Changing:
    state: State = request.app.state.hourglass
    revision = named_revision(if_match)
    change = Changing(state, study_id, revision, response)
    change.now()  # refused before a long body is read
    if revision is None and request.method in REPLACES:
        raise ProblemError(
            428,
            "no-revision",
            "No revision named",
            "What this changes takes the place of what somebody may have decided meanwhile: send If-Match "
            "with the ETag of the study as you saw it. * is only for what adds to a study.",
        )
    return change


def _revision(if_match: str) -> int:
    named = if_match.strip().removeprefix("W/").strip('"')
    return int(named) if named.isdigit() and len(named) < 19 else 0


Change: Any = Annotated[Changing, Depends(_changing)]
"""The study that a route changes, from the revision at which its caller saw it."""

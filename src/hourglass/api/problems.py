"""Every error as a problem: what, where, what to do (RFC 9457)."""

import psycopg
import structlog
from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from psycopg_pool import PoolTimeout
from starlette.exceptions import HTTPException

from hourglass.analysis.model.design import UnusableTermError
from hourglass.analysis.shared.formatting import capital
from hourglass.analysis.shared.frozen_model import FrozenModel
from hourglass.analysis.shared.stage import NoSuchPartError
from hourglass.analysis.shared.workings import NoWorkingsError
from hourglass.analysis.unknown_names import NoSuchLevelError
from hourglass.cohort.reading.recipe import UnreadableFileError
from hourglass.cohort.steps.step import BrokenStepError
from hourglass.cohort.table import NoSuchColumnError
from hourglass.core.errors import NotEstimableError, UserError
from hourglass.core.progress import CancelledError
from hourglass.store.blobs import MissingBlobError
from hourglass.study.applied_model import NoSuchModelError
from hourglass.study.demos import NoSuchDemoError
from hourglass.study.plans.applying import BrokenSealError
from hourglass.study.processes import WorkEndedError
from hourglass.study.study import (
    FileAlreadyReadError,
    NoSuchAnalysisError,
    NoSuchStudyError,
    NothingToUndoError,
    StaleError,
)

log = structlog.get_logger("hourglass")


class Problem(FrozenModel):
    """A problem document; ``detail`` is the sentence shown to the user.

    ``place`` names what of the request it is about; blank where that is the whole.
    """

    type: str
    title: str
    status: int
    detail: str
    place: str = ""


class StaleProblem(Problem):
    """A change refused because the study was changed meanwhile; ``changed`` lists what was."""

    revision: int
    changed: list[str]


class ProblemError(Exception):
    """A refusal that a route words itself."""

    def __init__(self, status: int, kind: str, title: str, detail: str) -> None:
        self.problem = Problem(
            type=f"urn:hourglass:{kind}", title=title, status=status, detail=detail
        )
        super().__init__(detail)


KNOWN: dict[type[Exception], tuple[int, str, str]] = {
    NoSuchStudyError: (404, "no-such-study", "No such study"),
    NoSuchAnalysisError: (404, "no-such-analysis", "No such analysis"),
    NoSuchPartError: (404, "no-such-part", "No such part"),
    NoSuchDemoError: (404, "no-such-demo", "No such demo"),
    NoWorkingsError: (404, "no-workings", "No workings"),
    FileAlreadyReadError: (409, "file-already-read", "The study has a file"),
    NothingToUndoError: (409, "nothing-to-undo", "Nothing to undo"),
    NoSuchModelError: (404, "no-model", "No such model"),
    BrokenSealError: (422, "broken-seal", "The seal does not fit"),
    UnreadableFileError: (422, "unreadable-file", "The file cannot be read"),
    BrokenStepError: (422, "broken-step", "The step does not fit"),
    NoSuchColumnError: (422, "no-such-column", "No such column"),
    NoSuchLevelError: (422, "no-such-level", "No such level"),
    UnusableTermError: (422, "unusable-term", "The term cannot be used"),
    NotEstimableError: (422, "not-estimable", "Not estimable"),
    WorkEndedError: (500, "work-ended", "The computation broke off"),
    MissingBlobError: (500, "missing-file", "The study's file is damaged"),
}
MENDED: dict[str, tuple[int, str]] = {
    "steps-changed": (409, "The steps have changed"),
    "finding-gone": (409, "The finding has changed"),
    "no-such-decision": (404, "No such decision"),
    "no-such-layout": (409, "No such layout"),
    "same-extract": (409, "The same data"),
    "no-such-extract": (404, "No such data extract"),
    "no-such-table": (404, "No such table"),
    "too-many-tables": (409, "Too many tables"),
    "no-such-analysis": (404, "No such analysis"),
    "only-analysis": (409, "The only one of its stage"),
    "no-such-columns": (422, "Names without partners"),
    "no-such-code": (422, "No such code"),
    "strange-cell": (422, "Not one of the finding's cells"),
    "no-correction": (422, "Nothing corrected"),
}
"""The status and title of what a person can mend, by its code."""
DISK_FULL = Problem(
    type="urn:hourglass:disk-full",
    title="The disk is full",
    status=507,
    detail="The disk is full, so nothing was saved. What was saved before is safe: make room on the disk of "
    "the program's folder, and try again.",
)
CANCELLED = Problem(
    type="urn:hourglass:cancelled",
    title="Cancelled",
    status=409,
    detail="The work was cancelled. Open the view again to start it.",
)
UNKEPT = (psycopg.DataError, UnicodeEncodeError)
"""What text with a zero byte, or half a character, comes to when it is to be kept."""
UNAVAILABLE = (psycopg.OperationalError, psycopg.InterfaceError)
RETRY_AFTER = 2
"""Seconds after which somebody who found the program busy may try again."""


def respond(problem: Problem) -> JSONResponse:
    """The problem as a response."""
    return JSONResponse(problem.model_dump(), problem.status, media_type="application/problem+json")


def install(app: FastAPI) -> None:
    """Answer every error with a problem document."""

    @app.exception_handler(ProblemError)
    def refused(_: Request, error: ProblemError) -> JSONResponse:
        return respond(error.problem)

    @app.exception_handler(UserError)
    def mendable(_: Request, error: UserError) -> JSONResponse:
        status, title = MENDED[error.code]
        return respond(
            Problem(
                type=f"urn:hourglass:{error.code}",
                title=title,
                status=status,
                detail=str(error),
                place=error.place,
            )
        )

    @app.exception_handler(StaleError)
    def stale(_: Request, error: StaleError) -> JSONResponse:
        return respond(
            StaleProblem(
                type="urn:hourglass:stale",
                title="Changed meanwhile",
                status=412,
                detail=str(error),
                revision=error.study.revision,
                changed=[decision.sentence for decision in error.since],
            )
        )

    @app.exception_handler(RequestValidationError)
    def invalid(_: Request, error: RequestValidationError) -> JSONResponse:
        first = error.errors()[0]
        where = ".".join(str(part) for part in first["loc"] if part != "body")
        detail = f"{where or 'The request'}: {first['msg']}."
        return respond(
            Problem(
                type="urn:hourglass:invalid",
                title="Not understood",
                status=422,
                detail=detail,
                place=where,
            )
        )

    @app.exception_handler(HTTPException)
    def plain(_: Request, error: HTTPException) -> JSONResponse:
        kind = f"urn:hourglass:http-{error.status_code}"
        return respond(
            Problem(
                type=kind,
                title=str(error.detail),
                status=error.status_code,
                detail=str(error.detail),
            )
        )

    for kind, (status, name, title) in KNOWN.items():
        app.add_exception_handler(kind, _worded(status, name, title))
    app.add_exception_handler(psycopg.errors.DiskFull, _disk_full)
    app.add_exception_handler(CancelledError, _cancelled)
    app.add_exception_handler(PoolTimeout, _busy)
    for unavailable in UNAVAILABLE:
        app.add_exception_handler(unavailable, _unavailable)
    for unkept in UNKEPT:
        app.add_exception_handler(unkept, _unkept)


def _worded(status: int, name: str, title: str):  # type: ignore[no-untyped-def]
    def handler(_: Request, error: Exception) -> JSONResponse:
        detail = capital(str(error))
        if not detail.endswith((".", "?", "!")):
            detail += "."
        return respond(
            Problem(type=f"urn:hourglass:{name}", title=title, status=status, detail=detail)
        )

    return handler


def _disk_full(_: Request, error: Exception) -> JSONResponse:
    log.error("the disk is full", error=str(error))
    return respond(DISK_FULL)


def _cancelled(_: Request, error: Exception) -> JSONResponse:
    return respond(CANCELLED)


def _busy(_: Request, error: Exception) -> JSONResponse:
    log.warning("all connections to the database are in use", error=str(error))
    answer = respond(
        Problem(
            type="urn:hourglass:busy",
            title="Busy",
            status=503,
            detail="The program is busy with other requests, so nothing was changed. Try again in a moment.",
        )
    )
    answer.headers["Retry-After"] = str(RETRY_AFTER)
    return answer


def _unavailable(_: Request, error: Exception) -> JSONResponse:
    log.warning("the database does not answer", error=str(error))
    return respond(
        Problem(
            type="urn:hourglass:database-away",
            title="The database does not answer",
            status=503,
            detail="The database does not answer, so nothing was saved. What was saved before is "
            "safe: try again in a moment, or stop and start Olden Hourglass.",
        )
    )


def _unkept(_: Request, error: Exception) -> JSONResponse:
    log.info("a text cannot be kept", error=type(error).__name__)
    return respond(
        Problem(
            type="urn:hourglass:unkept-text",
            title="A text cannot be kept",
            status=422,
            detail="A text holds a character that cannot be kept (a zero byte, or half of a "
            "character). Leave it out and try again.",
        )
    )

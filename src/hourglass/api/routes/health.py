"""Is the server well, and what does it allow."""

from fastapi import APIRouter, Request

from hourglass import VERSION
from hourglass.analysis.typed import Typed
from hourglass.api.desk import Desk
from hourglass.api.problems import UNAVAILABLE
from hourglass.store.migrate import version

router = APIRouter(tags=["health"])


class Health(Typed):
    """Version, database state and limits."""

    version: str
    database: str
    database_version: int | None
    upload_limit: int


@router.get("/api/health")
def health(request: Request) -> Health:
    """The program's version and whether its database answers."""
    desk: Desk = request.app.state.desk
    try:
        with desk.db() as db:
            at = version(db)
    except UNAVAILABLE:
        return Health(
            version=VERSION,
            database="away",
            database_version=None,
            upload_limit=desk.settings.upload_limit,
        )
    return Health(
        version=VERSION,
        database="ready",
        database_version=at,
        upload_limit=desk.settings.upload_limit,
    )

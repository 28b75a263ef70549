"""Is the server well, and what does it allow."""

from fastapi import APIRouter, Request

from hourglass import VERSION
from hourglass.analysis.shared.frozen_model import FrozenModel
from hourglass.api.problems import UNAVAILABLE
from hourglass.api.state import State
from hourglass.store.migrate import version

router = APIRouter(tags=["health"])


class Health(FrozenModel):
    """Version, database state and limits."""

    version: str
    database: str
    database_version: int | None
    upload_limit: int


@router.get("/api/health")
def health(request: Request) -> Health:
    """The program's version and whether its database answers."""
    state: State = request.app.state.hourglass
    try:
        with state.db() as db:
            at = version(db)
    except UNAVAILABLE:
        return Health(
            version=VERSION,
            database="away",
            database_version=None,
            upload_limit=state.settings.upload_limit,
        )
    return Health(
        version=VERSION,
        database="ready",
        database_version=at,
        upload_limit=state.settings.upload_limit,
    )

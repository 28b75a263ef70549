"""Work under way: where it is, and cancelling it."""

from fastapi import APIRouter, Request

from hourglass.api.state import State
from hourglass.study.work import WorkView

router = APIRouter(tags=["work"])


@router.get("/api/work/{work}")
def work_under_way(request: Request, work: str) -> WorkView | None:
    """Where a piece of work is; null when it has ended or is not known."""
    state: State = request.app.state.hourglass
    found = state.results.under_way.find(work)
    return None if found is None or found.future.done() else found.reading()


@router.delete("/api/work/{work}", status_code=204)
def cancel_work(request: Request, work: str) -> None:
    """Cancel a piece of work."""
    state: State = request.app.state.hourglass
    found = state.results.under_way.find(work)
    if found is not None:
        found.cancel()

"""How long work reports its progress and learns that it was cancelled."""

from typing import Protocol


class CancelledError(Exception):
    """The work was cancelled; it is no fault and no refusal, and passes through whatever catches these."""


class ProgressCallback(Protocol):
    """Called with what is being done and the share that is done (0 to 1); raises to stop the work."""

    def __call__(self, what: str, share: float) -> None: ...


def no_progress(what: str, share: float) -> None:
    """Ignore progress: for work that nobody follows and that cannot be cancelled."""

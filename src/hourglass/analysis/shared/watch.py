"""How long work tells its progress, and is cancelled."""

from typing import Protocol


class CancelledError(Exception):
    """The work was cancelled by the person who asked for it."""


class Watch(Protocol):
    """Told what is being done and how far it is (0 to 1); raises CancelledError to stop it."""

    def __call__(self, what: str, share: float) -> None: ...


def unwatched(what: str, share: float) -> None:
    """For work whose progress nobody asks for, and that cannot be cancelled."""

"""How long work reports its progress, and is ended when nobody wants it any more."""

from typing import Protocol


class CancelledError(Exception):
    """The work was cancelled; it is no fault and no refusal, and passes through whatever catches these."""


class Watch(Protocol):
    """Told what is being done and how far it is (0 to 1); whatever it raises stops the work."""

    def __call__(self, what: str, share: float) -> None: ...


def unwatched(what: str, share: float) -> None:
    """For work whose progress nobody asks for, and that cannot be cancelled."""

"""How long work tells its progress."""

from typing import Protocol


class Watch(Protocol):
    """Told what is being done and how far it is (0 to 1); whatever it raises stops the work."""

    def __call__(self, what: str, share: float) -> None: ...


def unwatched(what: str, share: float) -> None:
    """For work whose progress nobody asks for, and that cannot be cancelled."""

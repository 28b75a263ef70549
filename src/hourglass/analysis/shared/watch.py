"""How long work tells its progress, and is cancelled."""

from hourglass.core.watch import Watch, unwatched

__all__ = ["CancelledError", "Watch", "unwatched"]


class CancelledError(Exception):
    """The work was cancelled by the person who asked for it."""

"""What ends long work when it is no longer wanted."""


class CancelledError(Exception):
    """The work was cancelled by the person who asked for it."""

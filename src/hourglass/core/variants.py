"""Finding a variant in an explicit table of them."""

from collections.abc import Iterable
from typing import Protocol, TypeVar


class Keyed(Protocol):
    """A variant that a statement names by its key."""

    @property
    def key(self) -> str:
        """What it is called in a statement."""
        ...


K = TypeVar("K", bound=Keyed)


def variant(table: Iterable[K], key: str) -> K:
    """The variant of that key; a statement names only those there are."""
    return next(one for one in table if one.key == key)

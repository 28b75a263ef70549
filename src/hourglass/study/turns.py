"""Whose turn it is: works of one owner queue behind each other, not before everybody's."""

from collections import deque
from collections.abc import Callable
from dataclasses import dataclass
from itertools import count
from typing import Generic, Protocol, TypeVar, runtime_checkable

T = TypeVar("T")
MAX_OWNERS = 1_000
"""Owners whose last turn is remembered."""
LONG_ROWS = 100_000
"""Work on more rows than this may take seconds."""


@dataclass(frozen=True, slots=True)
class Turn:
    """For whom a work is done (by the data it is done on), and whether it may take its time."""

    owner: str = ""
    long: bool = False


@runtime_checkable
class HasTurn(Protocol):
    """A task that knows which turn it takes."""

    @property
    def turn(self) -> Turn:
        """Its turn."""
        ...


def turn_of(task: object) -> Turn:
    """The turn of a task; one that does not know is short, and nobody's."""
    return task.turn if isinstance(task, HasTurn) else Turn()


class Queue(Generic[T]):
    """Items that wait, by owner: next is the first item of the owner whose last turn is longest ago."""

    def __init__(self) -> None:
        self._waiting: dict[str, deque[T]] = {}
        self._served: dict[str, int] = {}
        self._turns = count(1)

    def put(self, owner: str, item: T) -> None:
        """Wait behind what the owner has waiting already."""
        self._waiting.setdefault(owner, deque()).append(item)

    def next(self) -> T | None:
        """What is next; None where nothing waits."""
        if not self._waiting:
            return None
        owner = min(self._waiting, key=lambda one: self._served.get(one, 0))
        if len(self._served) > MAX_OWNERS:
            self._served = {one: self._served.get(one, 0) for one in self._waiting}
        self._served[owner] = next(self._turns)
        item = self._waiting[owner].popleft()
        if not self._waiting[owner]:
            del self._waiting[owner]
        return item

    def take_out(self, unwanted: Callable[[T], bool]) -> list[T]:
        """Take out what is not wanted any more."""
        gone = [item for own in self._waiting.values() for item in own if unwanted(item)]
        if gone:
            left = {
                owner: deque(t for t in own if t not in gone)
                for owner, own in self._waiting.items()
            }
            self._waiting = {owner: own for owner, own in left.items() if own}
        return gone

"""The last values made, by key, within one budget of bytes for all of a process."""

from collections.abc import Callable
from contextlib import suppress
from operator import itemgetter
from threading import RLock
from typing import Any, Generic, TypeAlias, TypeVar, cast

from cachetools import LRUCache

from hourglass.study.sizes import size_of

V = TypeVar("V")
Key: TypeAlias = tuple[str, str]
"""What kind of value it is, and which of them."""
Sized: TypeAlias = tuple[Any, int]
"""A value, and its bytes."""
NOTHING_HELD: Sized = (None, 0)
USUAL_BUDGET = 1024 << 20
"""Bytes, where nothing else is stated."""


class Memory:
    """What a process remembers of everything: what was requested longest ago is let go first."""

    def __init__(self, budget: int = USUAL_BUDGET) -> None:
        self._lock, self._values = RLock(), _within(budget)

    @property
    def held(self) -> int:
        """Bytes that are remembered."""
        return int(self._values.currsize)

    def keep_within(self, budget: int) -> None:
        """Keep within another budget, in bytes, from now on."""
        with self._lock:
            before, self._values = self._values, _within(budget)
            while before:
                self._put(*before.popitem())  # what was requested longest ago comes first

    def put(self, key: Key, value: Any) -> None:
        """Remember a value; one larger than the budget would drive out all others, and itself."""
        sized = value, size_of(value)  # which takes a while, and nobody waits for
        with self._lock:
            self._put(key, sized)

    def peek(self, key: Key) -> Any | None:
        """The value of a key, if it is there."""
        with self._lock:
            return self._values.get(key, NOTHING_HELD)[0]

    def forget(self, key: Key) -> None:
        """Let go of a value."""
        with self._lock:
            self._values.pop(key, None)

    def _put(self, key: Key, sized: Sized) -> None:
        self.forget(key)
        with suppress(ValueError):  # it is larger than the budget
            self._values[key] = sized


def _within(budget: int) -> LRUCache[Key, Sized]:
    return LRUCache(budget, getsizeof=itemgetter(1))


memory = Memory()
"""What this process remembers."""


def keep_within(budget: int) -> None:
    """Have this process remember at most so many bytes."""
    memory.keep_within(budget)


class Recent(Generic[V]):
    """Values of one kind, remembered among all others of the process."""

    def __init__(self, kind: str, within: Memory = memory) -> None:
        self._kind, self._within = kind, within

    def get(self, key: str, make: Callable[[], V]) -> V:
        """The value of a key, made if it is not there."""
        known = self.peek(key)
        if known is not None:
            return known
        value = make()
        self.put(key, value)
        return value

    def put(self, key: str, value: V) -> None:
        """Remember a value; one that is larger than all of the budget is not."""
        self._within.put((self._kind, key), value)

    def forget(self, key: str) -> None:
        """Let go of the value of a key."""
        self._within.forget((self._kind, key))

    def peek(self, key: str) -> V | None:
        """The value of a key, if it is there."""
        return cast("V | None", self._within.peek((self._kind, key)))

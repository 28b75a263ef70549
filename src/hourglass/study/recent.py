"""The last values made, by key, within one budget of bytes for all of a process."""

from collections import OrderedDict
from collections.abc import Callable
from threading import RLock
from typing import Any, Generic, TypeVar, cast

from hourglass.study.sizes import size_of

V = TypeVar("V")
USUAL_BUDGET = 1024 << 20
"""Bytes, where nothing else is said."""


class Memory:
    """What a process remembers of everything: what was asked for longest ago is let go first."""

    def __init__(self, budget: int = USUAL_BUDGET) -> None:
        self._budget, self._held, self._lock = budget, 0, RLock()
        self._values: OrderedDict[tuple[str, str], tuple[Any, int]] = OrderedDict()

    @property
    def held(self) -> int:
        """Bytes that are remembered."""
        return self._held

    def keep_within(self, budget: int) -> None:
        """Keep within another budget, in bytes, from now on."""
        with self._lock:
            self._budget = budget
            self._let_go()

    def put(self, key: tuple[str, str], value: Any) -> None:
        """Remember a value."""
        size = size_of(value)
        with self._lock:
            self.forget(key)
            if size > self._budget:
                return  # it would drive out all others, and itself
            self._values[key] = value, size
            self._held += size
            self._let_go()

    def peek(self, key: tuple[str, str]) -> Any | None:
        """The value of a key, if it is there."""
        with self._lock:
            if key not in self._values:
                return None
            self._values.move_to_end(key)
            return self._values[key][0]

    def forget(self, key: tuple[str, str]) -> None:
        """Let go of a value."""
        with self._lock:
            _, size = self._values.pop(key, (None, 0))
            self._held -= size

    def _let_go(self) -> None:
        while self._held > self._budget:
            self.forget(next(iter(self._values)))


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

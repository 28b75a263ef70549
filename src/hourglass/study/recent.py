"""The last few values made, by key."""

from collections import OrderedDict
from collections.abc import Callable
from threading import Lock
from typing import Generic, TypeVar

V = TypeVar("V")


class Recent(Generic[V]):
    """Remembers values; the one asked for longest ago is let go first."""

    def __init__(self, most: int) -> None:
        self._most, self._lock = most, Lock()
        self._values: OrderedDict[str, V] = OrderedDict()

    def get(self, key: str, make: Callable[[], V]) -> V:
        """The value of a key, made if it is not there."""
        known = self.peek(key)
        if known is not None:
            return known
        value = make()
        self.put(key, value)
        return value

    def put(self, key: str, value: V) -> None:
        """Remember a value."""
        with self._lock:
            self._values[key] = value
            while len(self._values) > self._most:
                self._values.popitem(last=False)

    def peek(self, key: str) -> V | None:
        """The value of a key, if it is there."""
        with self._lock:
            if key in self._values:
                self._values.move_to_end(key)
            return self._values.get(key)

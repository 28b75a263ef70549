"""Whose file is read next: small ones first, and a long reading makes way for those that are not."""

import heapq
import threading
import time
from collections import deque
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from itertools import count

FRESH, LONG = 3, 2
"""How many files are read at a time that have just begun, and of those that take their time."""
SOON = 3.0
"""Seconds within which most files are read."""
LOOK_EVERY = 0.1


class ReadingTurns:
    """Places for readings: each begins in one of the fresh ones and goes on, after a while, in a long one."""

    def __init__(self, fresh: int = FRESH, long: int = LONG) -> None:
        self._free_fresh, self._free_long = fresh, long
        self._waiting: list[tuple[int, int]] = []
        self._wanting: deque[ReadingTurn] = deque()
        self._long: list[ReadingTurn] = []
        self._numbers, self._changed = count(), threading.Condition()

    @contextmanager
    def place(self, size: int, look: Callable[[], None]) -> Iterator["ReadingTurn"]:
        """A place for the reading of a file of so many bytes, once there is one.

        Args:
            look: called now and then while waiting; raises when the reading is no longer wanted.
        """
        own = (size, next(self._numbers))
        with self._changed:
            heapq.heappush(self._waiting, own)
            try:
                while not (self._free_fresh and self._waiting[0] == own):
                    self._changed.wait(LOOK_EVERY)
                    look()
                self._free_fresh -= 1
            finally:
                self._waiting.remove(own)
                heapq.heapify(self._waiting)
                self._changed.notify_all()
        turn = ReadingTurn(self)
        try:
            yield turn
        finally:
            turn.end()

    def no_longer_fresh(self) -> None:
        """Give back the place of a reading that has taken its time."""
        with self._changed:
            self._free_fresh += 1
            self._changed.notify_all()

    def goes_on(self, turn: "ReadingTurn", *, held: bool) -> bool:
        """Whether a long reading has a place now: they have them by turns.

        Args:
            held: whether it has had one for so long that others may have it.
        """
        with self._changed:
            if turn in self._long:
                if not (held and self._wanting):
                    return True
                self._long.remove(turn)
                self._free_long += 1
            if turn not in self._wanting:
                self._wanting.append(turn)
            if not self._free_long or self._wanting[0] is not turn:
                return False
            self._wanting.popleft()
            self._long.append(turn)
            self._free_long -= 1
            return True

    def ended(self, turn: "ReadingTurn", *, fresh: bool) -> None:
        """Give back what a reading has."""
        with self._changed:
            self._free_fresh += fresh
            if turn in self._wanting:
                self._wanting.remove(turn)
            if turn in self._long:
                self._long.remove(turn)
                self._free_long += 1
            self._changed.notify_all()


class ReadingTurn:
    """The place that a reading has: fresh, long, or none while it makes way."""

    def __init__(self, places: ReadingTurns) -> None:
        self._places, self._since, self._fresh, self._going = places, time.monotonic(), True, True

    def may_go_on(self) -> bool:
        """Whether the reading may go on now; one that takes its time makes way for others by turns."""
        soon = time.monotonic() - self._since < SOON
        if self._fresh and soon:
            return True
        if self._fresh:
            self._fresh = False
            self._places.no_longer_fresh()
        was, self._going = self._going, self._places.goes_on(self, held=not soon)
        if self._going and not was:
            self._since = time.monotonic()
        return self._going

    def end(self) -> None:
        """Give the place back."""
        self._places.ended(self, fresh=self._fresh)
        self._fresh = False

"""Long work: started once, watched, and cancelled on request, off the event loop."""

import threading
from collections import OrderedDict
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from typing import Any
from uuid import uuid4

from hourglass.analysis.typed import Typed
from hourglass.analysis.watch import CancelledError, Watch

MOST_KEPT = 200


class WorkReading(Typed):
    """Where a piece of work is: ``share`` from 0 to 1."""

    id: str
    what: str
    share: float


class Work:
    """One piece of work under way."""

    def __init__(self) -> None:
        self.id = uuid4().hex
        self._what, self._share = "waiting", 0.0
        self._cancelled = threading.Event()
        self.future: Future[Any]

    def watch(self, what: str, share: float) -> None:
        """The :class:`Watch` handed to the work."""
        if self._cancelled.is_set():
            raise CancelledError
        self._what, self._share = what, share

    def cancel(self) -> None:
        """Ask the work to stop at its next step."""
        self._cancelled.set()

    def reading(self) -> WorkReading:
        """Where it is now."""
        return WorkReading(id=self.id, what=self._what, share=self._share)


class Workshop:
    """Runs work on a few threads; the same key is never worked on twice at once."""

    def __init__(self, threads: int = 2) -> None:
        self._pool = ThreadPoolExecutor(threads, thread_name_prefix="work")
        # Work that ends at once calls back within start, so the lock must let its holder in again.
        self._lock = threading.RLock()
        self._by_key: dict[tuple[str, ...], Work] = {}
        self._by_id: OrderedDict[str, Work] = OrderedDict()

    def start(self, key: tuple[str, ...], do: Callable[[Watch], Any]) -> Work:
        """Begin, or join what is already under way for the key."""
        with self._lock:
            there = self._by_key.get(key)
            if there is not None and not there.future.done():
                return there
            work = Work()
            self._by_key[key] = self._by_id[work.id] = work
            while len(self._by_id) > MOST_KEPT:
                self._by_id.popitem(last=False)
            work.future = self._pool.submit(do, work.watch)
            work.future.add_done_callback(lambda _: self._forget(key, work))
            return work

    def find(self, work: str) -> Work | None:
        """The work of that id, if it is still remembered."""
        return self._by_id.get(work)

    def close(self) -> None:
        """Cancel everything and let the threads end."""
        for work in list(self._by_id.values()):
            work.cancel()
        self._pool.shutdown(wait=True, cancel_futures=True)

    def _forget(self, key: tuple[str, ...], work: Work) -> None:
        with self._lock:
            if self._by_key.get(key) is work:
                del self._by_key[key]

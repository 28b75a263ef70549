"""Work under way: begun once for each key, watched, and cancelled on request."""

import threading
import time
from collections.abc import Callable
from concurrent.futures import Future, wait
from typing import Any, Protocol, TypeVar
from uuid import uuid4

from hourglass.analysis.shared.frozen_model import FrozenModel
from hourglass.core.progress import CancelledError, ProgressCallback

V = TypeVar("V")
Task = Callable[[ProgressCallback], Any]
"""What an executor runs; one that runs tasks in other processes needs them picklable."""


HANDED_ON = 0.2
"""Seconds after which somebody who waits hears how far work has got."""
CANCELLED_FOR = 3.0
"""Seconds after its end within which cancelled work is given to the first who looks for it."""
After = Callable[[Any], None]


def _nothing(found: Any) -> None:
    """For work that nothing is done with but to give it."""


class TaskHandle(Protocol):
    """Takes the progress of a task, and knows whether the task is cancelled."""

    def progress(self, what: str, share: float) -> None:
        """The :class:`ProgressCallback` of the task."""
        ...

    @property
    def cancelled(self) -> bool:
        """Whether somebody has cancelled it."""
        ...


class Executor(Protocol):
    """Runs tasks, somewhere: here, in other processes, perhaps one day on other machines."""

    def submit(self, task: Task, handle: TaskHandle) -> Future[Any]:
        """Begin a task."""
        ...

    def close(self) -> None:
        """Let go of what it runs tasks on."""
        ...


class WorkView(FrozenModel):
    """Where a piece of work is: ``share`` from 0 to 1."""

    id: str
    what: str
    share: float


class Work:
    """One piece of work under way; ``superseded`` if it is cancelled for other work in its place.

    ``end_known`` is set by whoever waited for it and found it cancelled.
    """

    def __init__(self) -> None:
        self.id = uuid4().hex
        self.superseded = self.end_known = False
        self._what, self._share = "waiting", 0.0
        self._cancelled = threading.Event()
        self.future: Future[Any] = Future()

    def progress(self, what: str, share: float) -> None:
        """The :class:`ProgressCallback` handed to the task."""
        if self._cancelled.is_set():
            raise CancelledError
        self._what, self._share = what, share

    def cancel(self) -> None:
        """Ask the task to stop at its next step."""
        self._cancelled.set()

    @property
    def cancelled(self) -> bool:
        """Whether somebody has cancelled it."""
        return self._cancelled.is_set()

    def reading(self) -> WorkView:
        """Where it is now."""
        return WorkView(id=self.id, what=self._what, share=self._share)


def brought(work: Work, progress: ProgressCallback, share: float) -> Any:
    """What a piece of work brings; where it has got to is handed on while somebody waits for it here.

    Raises:
        CancelledError: when whoever waits is no longer wanted; the work is then cancelled, too.
    """
    while not work.future.done():
        wait([work.future], HANDED_ON)
        try:
            progress(work.reading().what, share)
        except CancelledError:
            work.cancel()
            raise
    return work.future.result()


class WorkUnderWay:
    """All pieces of work; the same key is never worked on twice at once."""

    def __init__(self) -> None:
        # A task that ends at once calls back within start, so the lock must let its holder in again.
        self._lock = threading.RLock()
        self._by_key: dict[tuple[str, ...], Work] = {}
        self._by_id: dict[str, Work] = {}
        self._cancelled: dict[tuple[str, ...], tuple[Work, float]] = {}

    def start(
        self, key: tuple[str, ...], task: Task, executor: Executor, after: After = _nothing
    ) -> Work:
        """Begin, or join what is already under way for the key.

        Whoever looks whether it is done, and comes just after it was cancelled, is given what was
        cancelled: else looking would begin it anew.

        Args:
            after: what is done with what the task brings, before anybody is given it.
        """
        with self._lock:
            there = self._by_key.get(key)
            if there is not None and not there.future.done():
                return there
            stopped, at = self._cancelled.pop(key, (None, 0.0))
            if (
                stopped is not None
                and not stopped.end_known
                and time.monotonic() < at + CANCELLED_FOR
            ):
                return stopped
            work = Work()
            self._by_key[key] = self._by_id[work.id] = work
            executor.submit(task, work).add_done_callback(
                lambda done: self._end(key, work, done, after)
            )
            return work

    def cancel_others(self, key: tuple[str, ...], shared: int) -> None:
        """Cancel work whose keys begin with the same ``shared`` words as this one, but are others."""
        with self._lock:
            for other, work in self._by_key.items():
                if other != key and other[:shared] == key[:shared]:
                    work.superseded = True
                    work.cancel()

    def find(self, work: str) -> Work | None:
        """The work of that id, while it is under way: what it brought belongs to whoever waited."""
        return self._by_id.get(work)

    def close(self) -> None:
        """Cancel everything."""
        for work in list(self._by_id.values()):
            work.cancel()

    def _end(self, key: tuple[str, ...], work: Work, done: Future[Any], after: After) -> None:
        failed: BaseException | None
        try:
            failed = CancelledError() if done.cancelled() else done.exception()
            if failed is None:
                after(done.result())
        except Exception as error:  # handed to whoever waits for the work
            failed = error
        with self._lock:
            if self._by_key.get(key) is work:
                del self._by_key[key]
            self._by_id.pop(work.id, None)
            if work.cancelled and not work.superseded:
                self._remember_cancelled(key, work)
        if failed is None:
            work.future.set_result(done.result())
        else:
            work.future.set_exception(failed)

    def _remember_cancelled(self, key: tuple[str, ...], work: Work) -> None:
        now = time.monotonic()
        for old in [k for k, (_, at) in self._cancelled.items() if now > at + CANCELLED_FOR]:
            del self._cancelled[old]
        self._cancelled[key] = work, now

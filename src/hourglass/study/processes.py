"""An executor on other processes, so that a fit never stalls another person's click."""

import gc
import multiprocessing
import os
import threading
import time
from collections.abc import Callable
from concurrent.futures import Future, ProcessPoolExecutor, wait
from concurrent.futures.process import BrokenProcessPool
from contextlib import suppress
from multiprocessing.queues import SimpleQueue
from typing import Any

from hourglass.analysis.shared.watch import CancelledError
from hourglass.core.watch import Watch
from hourglass.study.work import Task, Wanted

PLACES = 256
"""How many tasks may be under way at once."""
LOOK_EVERY = 0.05
"""Seconds between looks at whether a task is still wanted."""
TELL_EVERY = 0.05
"""Seconds between two tellings of a task's progress."""
Told = tuple[int, str, float] | None


class WorkEndedError(RuntimeError):
    """A process that worked on a task ended before the task did, for want of memory perhaps."""


class Processes:
    """Runs picklable tasks in a few other processes.

    Each task has a place: under its number the process tells the progress, and finds out whether
    it is still wanted.
    """

    def __init__(self, processes: int = 2, preload: tuple[str, ...] = ()) -> None:
        self._context = multiprocessing.get_context("forkserver")
        self._context.set_forkserver_preload(list(preload))
        self._processes = processes
        self._told: SimpleQueue[Told] = self._context.SimpleQueue()
        self._unwanted = self._context.RawArray("b", PLACES)
        self._wanted: dict[int, Wanted] = {}
        self._lock = threading.Lock()
        self._pool = self._new_pool()
        self._listener = threading.Thread(target=self._listen, daemon=True)
        self._listener.start()
        self._pool.submit(_nothing)  # the first process is there before it is needed

    def submit(self, task: Task, wanted: Wanted) -> Future[Any]:
        """Begin a task in another process."""
        outer: Future[Any] = Future()
        with self._lock:
            place = next((k for k in range(PLACES) if k not in self._wanted), None)
            if place is None:
                outer.set_exception(WorkEndedError("Too much is being computed: try again soon."))
                return outer
            self._wanted[place] = wanted
            self._unwanted[place] = 0
            inner = self._begin(place, task)
        threading.Thread(
            target=self._look_after, args=(place, wanted, inner, outer), daemon=True
        ).start()
        return outer

    def _begin(self, place: int, task: Task) -> Future[Any]:
        try:
            return self._pool.submit(_run, place, task)
        except BrokenProcessPool:
            self._pool = self._new_pool()
            return self._pool.submit(_run, place, task)

    def close(self) -> None:
        """End the processes, whatever they are at."""
        workers = list((self._pool._processes or {}).values())
        self._pool.shutdown(wait=False, cancel_futures=True)
        for worker in workers:
            worker.terminate()
        self._told.put(None)
        self._listener.join(2)

    def _new_pool(self) -> ProcessPoolExecutor:
        return ProcessPoolExecutor(
            self._processes,
            mp_context=self._context,
            initializer=_adopt,
            initargs=(self._told, self._unwanted),
        )

    def _look_after(
        self, place: int, wanted: Wanted, inner: Future[Any], outer: Future[Any]
    ) -> None:
        """Wait for a task's end; whoever cancels it need not wait, the process finds out by itself."""
        while not inner.done():
            wait([inner], timeout=LOOK_EVERY)
            if wanted.cancelled and not outer.done():
                self._unwanted[place] = 1
                inner.cancel()
                outer.set_exception(CancelledError())
        with self._lock:
            self._wanted.pop(place, None)
        if outer.done():
            return
        failed = CancelledError() if inner.cancelled() else inner.exception()
        if isinstance(failed, BrokenProcessPool):
            failed = WorkEndedError(
                "The computation broke off: it may need more memory than there is. Nothing was "
                "changed."
            )
        if failed is None:
            outer.set_result(inner.result())
        else:
            outer.set_exception(failed)

    def _listen(self) -> None:
        """Hand on what the processes tell."""
        while (told := self._told.get()) is not None:
            place, what, share = told
            wanted = self._wanted.get(place)
            if wanted is not None and not wanted.cancelled:
                with suppress(CancelledError):
                    wanted.watch(what, share)


_mine: dict[str, Any] = {}


def _adopt(told: Any, unwanted: Any) -> None:
    """In a new process: where progress is told, and where it says what is no longer wanted."""
    _mine.update(told=told, unwanted=unwanted)
    gc.freeze()  # what is loaded stays: looking through it again and again costs a tenth of a task
    gc.set_threshold(50_000)
    threading.Thread(target=_end_with_parent, daemon=True).start()


def _end_with_parent() -> None:
    """Leave nothing behind, should the program be killed."""
    parent = multiprocessing.parent_process()
    if parent is not None:
        parent.join()
        os._exit(1)


def _nothing() -> None:
    """Nothing, so that a process is there."""


def _run(place: int, task: Callable[[Watch], Any]) -> Any:
    """In another process: run a task under its place."""
    told_at, told_what = 0.0, ""

    def watch(what: str, share: float) -> None:
        nonlocal told_at, told_what
        if _mine["unwanted"][place]:
            raise CancelledError
        now = time.monotonic()
        if what != told_what or now - told_at > TELL_EVERY:
            told_at, told_what = now, what
            _mine["told"].put((place, what, share))

    return task(watch)

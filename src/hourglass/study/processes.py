"""An executor on other processes, so that a fit never stalls another person's click."""

import gc
import multiprocessing
import os
import resource
import threading
import time
from collections.abc import Callable
from concurrent.futures import Future
from contextlib import suppress
from dataclasses import dataclass, field
from multiprocessing.queues import SimpleQueue
from typing import Any

from pebble import ProcessExpired, ProcessPool

from hourglass.core.errors import HourglassError
from hourglass.core.progress import CancelledError, ProgressCallback
from hourglass.study.memory_bound import bound_memory
from hourglass.study.turns import Queue, turn_of
from hourglass.study.work import Task, TaskHandle

LOOK_EVERY = 0.05
"""Seconds between looks at whether tasks are still wanted."""
SEND_EVERY = 0.05
"""Seconds between two reports of a task's progress."""
MIB = 2**20
MAX_MEMORY = 8192 * MIB
"""Bytes that a process may take beyond what it loads."""
RENEWED_ABOVE = 3072 * MIB
"""Bytes that a process may hold between two tasks: one that holds more gives way to a new one."""
Progress = tuple[int, str, float] | None


class WorkEndedError(HourglassError):
    """A process that worked on a task ended before the task did, for want of memory perhaps."""


TOO_MUCH = "The computation broke off: it may need more memory than there is. Nothing was changed."


@dataclass(eq=False, slots=True)
class _Waiting:
    """A task that waits for its turn."""

    task: Task
    handle: TaskHandle
    outer: Future[Any]


@dataclass(eq=False, slots=True)
class _Worker:
    """A process, and the task it is at; one that takes only short tasks is there for others' clicks."""

    place: int
    short_only: bool
    pool: ProcessPool
    at: _Waiting | None = field(default=None)


class Processes:
    """Runs picklable tasks in a few other processes, each task in its turn.

    One process is kept for short tasks, where there are several. Under a process's place the progress of its
    task is reported, and whether the task is still wanted.
    """

    def __init__(
        self,
        processes: int = 2,
        preload: tuple[str, ...] = (),
        memory: int = MAX_MEMORY,
        begin: Callable[[], None] | None = None,
    ) -> None:
        """Start the processes.

        Args:
            processes: how many.
            preload: modules that all of them need.
            memory: bytes that each may take beyond what it loads.
            begin: what each does first.
        """
        self._context = multiprocessing.get_context("forkserver")
        self._context.set_forkserver_preload(list(preload))
        self._memory, self._at_first = memory, begin
        self._progress: SimpleQueue[Progress] = self._context.SimpleQueue()
        self._unwanted = self._context.RawArray("b", processes)
        self._short: Queue[_Waiting] = Queue()
        self._long: Queue[_Waiting] = Queue()
        self._lock, self._closed = threading.RLock(), threading.Event()
        self._workers = [
            _Worker(place, processes > 1 and place == 0, self._new_pool())
            for place in range(processes)
        ]
        for worker in self._workers:
            worker.pool.schedule(_nothing)  # it is there before it is needed
        self._threads = [
            threading.Thread(target=run, daemon=True) for run in (self._listen, self._look)
        ]
        for thread in self._threads:
            thread.start()

    def submit(self, task: Task, handle: TaskHandle) -> Future[Any]:
        """Have a task done in its turn."""
        waiting = _Waiting(task, handle, Future())
        turn = turn_of(task)
        with self._lock:
            (self._long if turn.long else self._short).put(turn.owner, waiting)
        self._begin_next()
        return waiting.outer

    def close(self) -> None:
        """End the processes, whatever they are at."""
        self._closed.set()
        for worker in self._workers:
            _end(worker.pool)
        self._progress.put(None)
        for thread in self._threads:
            thread.join(2)

    def _begin_next(self) -> None:
        with self._lock:
            for worker in self._workers:
                if worker.at is None and not self._closed.is_set():
                    # A process for all tasks takes the short ones last, so that long ones find it free.
                    queues = (self._short,) if worker.short_only else (self._long, self._short)
                    worker.at = next((w for w in map(Queue.next, queues) if w is not None), None)
                    if worker.at is not None:
                        self._begin(worker, worker.at)

    def _begin(self, worker: _Worker, waiting: _Waiting) -> None:
        self._unwanted[worker.place] = 0
        inner = worker.pool.schedule(_run, args=(worker.place, waiting.task))
        inner.add_done_callback(lambda done: self._ended(worker, waiting, done))

    def _ended(self, worker: _Worker, waiting: _Waiting, done: Future[Any]) -> None:
        failed = CancelledError() if done.cancelled() else done.exception()
        held = 0
        if failed is None:
            found, held = done.result()
        with self._lock:
            worker.at = None
            if held > RENEWED_ABOVE and not self._closed.is_set():
                threading.Thread(target=_end, args=(worker.pool,), daemon=True).start()
                worker.pool = self._new_pool()
        self._begin_next()
        if isinstance(failed, ProcessExpired | MemoryError):
            failed = WorkEndedError(TOO_MUCH)
        with suppress(Exception):  # somebody has cancelled it meanwhile
            if failed is None:
                waiting.outer.set_result(found)
            else:
                waiting.outer.set_exception(failed)

    def _new_pool(self) -> ProcessPool:
        return ProcessPool(
            max_workers=1,
            context=self._context,
            initializer=_adopt,
            initargs=(self._progress, self._unwanted, self._memory, self._at_first),
        )

    def _look(self) -> None:
        """See what is no longer wanted; whoever cancels need not wait, a process finds out by itself."""
        while not self._closed.wait(LOOK_EVERY):
            with self._lock:
                gone = [
                    waiting
                    for queue in (self._short, self._long)
                    for waiting in queue.take_out(lambda w: w.handle.cancelled)
                ]
                for worker in self._workers:
                    if worker.at is not None and worker.at.handle.cancelled:
                        self._unwanted[worker.place] = 1
                        gone.append(worker.at)
            for waiting in gone:
                if not waiting.outer.done():
                    waiting.outer.set_exception(CancelledError())

    def _listen(self) -> None:
        """Hand on the progress that the processes report."""
        while (reached := self._progress.get()) is not None:
            place, what, share = reached
            at = self._workers[place].at
            if at is not None and not at.handle.cancelled:
                with suppress(CancelledError):
                    at.handle.progress(what, share)


def _end(pool: ProcessPool) -> None:
    """End a process, whatever it is at."""
    pool.stop()
    pool.join()


_mine: dict[str, Any] = {}


def _adopt(progress: Any, unwanted: Any, memory: int, begin: Callable[[], None] | None) -> None:
    """In a new process: where its progress goes, and where it finds what is no longer wanted."""
    _mine.update(progress=progress, unwanted=unwanted)
    threading.Thread(target=_end_with_parent, daemon=True).start()
    if begin is not None:
        begin()
    gc.freeze()  # what is loaded stays: looking through it again and again costs a tenth of a task
    gc.set_threshold(50_000)
    bound_memory(memory)


def _end_with_parent() -> None:
    """Leave nothing behind, should the program be killed."""
    parent = multiprocessing.parent_process()
    if parent is not None:
        parent.join()
        os._exit(1)


def _nothing() -> None:
    """Nothing, so that a process is there."""


def _run(place: int, task: Callable[[ProgressCallback], Any]) -> tuple[Any, int]:
    """In another process: run a task under its place; gives what it brings, and the bytes held after it."""
    sent_at, sent_what = 0.0, ""

    def progress(what: str, share: float) -> None:
        nonlocal sent_at, sent_what
        if _mine["unwanted"][place]:
            raise CancelledError
        now = time.monotonic()
        if what != sent_what or now - sent_at > SEND_EVERY:
            sent_at, sent_what = now, what
            _mine["progress"].put((place, what, share))

    return task(progress), _held()


def _held() -> int:
    """The bytes of memory that this process holds."""
    with open("/proc/self/statm", encoding="ascii") as file:
        return int(file.read().split()[1]) * resource.getpagesize()

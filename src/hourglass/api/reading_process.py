"""Uploads are read in a process of their own, so that a file made to break the reader breaks only it."""

import multiprocessing
import os
import pickle
import signal
import time
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from multiprocessing.connection import Connection
from typing import Any, TypeVar

from hourglass.api.reading_turns import ReadingTurn, ReadingTurns
from hourglass.cohort.reading.packed import PackedReading, packed
from hourglass.cohort.reading.read import find_recipe, read
from hourglass.cohort.reading.recipe import Limits, Recipe, UnreadableFileError
from hourglass.cohort.words import grouped
from hourglass.core.progress import ProgressCallback
from hourglass.study.memory_bound import bound_memory

MIB = 2**20
LOOK_EVERY = 0.1
"""Seconds between looks at whether the reading is still wanted."""
OUT_OF_MEMORY = (signal.SIGABRT, signal.SIGKILL)
"""What ends a process whose libraries find no more memory."""
V = TypeVar("V")
PRELOADED = (
    "hourglass.api.reading_process",
    "hourglass.cohort.reading.packed", "hourglass.cohort.reading.read", "numpy.ma", "dateutil.relativedelta",
    "pyarrow.dataset",
)  # fmt: skip
"""Modules of the reader, and those that libraries import at first use: loaded once for all forked."""
_processes = multiprocessing.get_context("forkserver")
_processes.set_forkserver_preload(list(PRELOADED))


@dataclass(frozen=True, slots=True)
class FileReader:
    """Reads files within limits of size, memory (in bytes) and time (in seconds)."""

    limits: Limits
    memory: int
    seconds: float
    turns: ReadingTurns = field(default_factory=ReadingTurns, compare=False)

    def read(self, data: bytes, recipe: Recipe | None, progress: ProgressCallback) -> PackedReading:
        """Read a whole file; its recipe is found when absent.

        Raises:
            UnreadableFileError: with a sentence stating what is wrong and what to do.
            CancelledError: when the callback raises it, since nobody wants the reading any more.
        """
        return self._apart(_read, (data, recipe, self.limits), progress, len(data))

    def _apart(
        self,
        do: Callable[..., V],
        given: tuple[Any, ...],
        progress: ProgressCallback,
        size: int = 0,
    ) -> V:
        with self.turns.place(size, lambda: progress("waiting for other files", 0.05)) as turn:
            return self._in_turn(do, given, progress, turn)

    def _in_turn(
        self,
        do: Callable[..., V],
        given: tuple[Any, ...],
        progress: ProgressCallback,
        turn: ReadingTurn,
    ) -> V:
        here, there = _processes.Pipe(duplex=False)
        child = _processes.Process(
            target=_run, args=(there, do, given, self.memory, self.seconds), daemon=True
        )
        child.start()
        there.close()
        try:
            kind, found = self._answer(here, child, progress, turn)
        finally:
            here.close()
            child.kill()
            child.join()
            child.close()
        if kind == "refused":
            raise UnreadableFileError(found)
        if kind == "memory":
            raise UnreadableFileError(self._too_much())
        if kind == "failed":
            raise found
        done: V = found
        return done

    def _answer(
        self, here: Connection, child: Any, progress: ProgressCallback, turn: ReadingTurn
    ) -> tuple[str, Any]:
        until = time.monotonic() + self.seconds
        while not here.poll(LOOK_EVERY):
            progress("reading the rows", 0.1)
            if not turn.may_go_on():
                until += _paused(child.pid, turn, progress)
            if time.monotonic() > until:
                raise UnreadableFileError(
                    f"Reading the file took longer than {grouped(round(self.seconds))} seconds "
                    "and was stopped. "
                    "Leave out columns or rows you do not need, or start the program with a higher "
                    "HOURGLASS_READING_SECONDS."
                )
        try:
            answer: tuple[str, Any] = pickle.loads(here.recv_bytes())  # noqa: S301 (our own process)
        except EOFError:
            child.join()
            raise UnreadableFileError(self._ended(-(child.exitcode or 0))) from None
        return answer

    def _ended(self, number: int) -> str:
        if number in OUT_OF_MEMORY:
            return self._too_much()
        if number == signal.SIGXCPU:
            return (
                "Reading the file took more work than one file may take and was stopped. Leave out "
                "columns or rows you do not need."
            )
        return (
            "Reading the file made the reader break off. Nothing was kept. Save the file in another "
            "format, such as CSV, and upload that."
        )

    def _too_much(self) -> str:
        return (
            f"Reading the file needs more than {grouped(round(self.memory / MIB))} MB of memory, "
            "the most that "
            "one file may take, and was stopped. Leave out columns or rows you do not need, or start "
            "the program with a higher HOURGLASS_READING_MEMORY_MB."
        )


def _paused(process: int, turn: ReadingTurn, progress: ProgressCallback) -> float:
    """Have a reading make way until it may go on; gives for how many seconds."""
    begun = time.monotonic()
    os.kill(process, signal.SIGSTOP)
    try:
        while not turn.may_go_on():
            progress("waiting for other files", 0.1)
            time.sleep(LOOK_EVERY)
    finally:
        os.kill(process, signal.SIGCONT)
    return time.monotonic() - begun


def _run(
    there: Connection, do: Callable[..., Any], given: tuple[Any, ...], memory: int, seconds: float
) -> None:
    """In the process of its own: set the limits, do it, and send what came of it."""
    bound_memory(memory)
    try:
        answer: tuple[str, Any] = ("done", do(*given))
    except UnreadableFileError as refused:
        answer = ("refused", str(refused))
    except MemoryError:
        answer = ("memory", None)
    except Exception as error:  # carried over to the process that made the request
        answer = ("failed", error)
    there.send_bytes(pickle.dumps(answer, protocol=pickle.HIGHEST_PROTOCOL))


def _read(data: bytes, recipe: Recipe | None, limits: Limits) -> PackedReading:
    found = read(data, recipe, limits)
    if recipe is None:
        return packed(found)
    # What speaks for another way of reading stays to be seen.
    _, evidence, sheets = find_recipe(data, limits)
    return packed(replace(found, evidence=(*evidence, *found.evidence), sheets=tuple(sheets)))

"""Answers that take a while and are not kept in the database: remembered for a little, or worked on."""

from collections.abc import Callable
from concurrent.futures import TimeoutError as StillWorkingError
from typing import TypeVar, cast

from hourglass.analysis.watch import CancelledError, Watch
from hourglass.api.desk import Desk
from hourglass.api.problems import ProblemError
from hourglass.api.work import WorkReading

V = TypeVar("V")
ANSWER_WITHIN = 0.3
"""Seconds a request waits for its result before it answers with a handle to the work."""


def cancelled() -> ProblemError:
    """What is said when somebody cancelled the work that an answer needs."""
    return ProblemError(
        409, "cancelled", "Cancelled", "The work was cancelled. Open the view again to start it."
    )


def answer(desk: Desk, key: tuple[str, ...], do: Callable[[Watch], V]) -> V | WorkReading:
    """The answer of that key if it is there within a moment, else where the work on it is."""
    known = desk.answers.peek("|".join(key))
    if known is not None:
        return cast(V, known)

    def work_on(watch: Watch) -> V:
        found = do(watch)
        desk.answers.get("|".join(key), lambda: found)
        return found

    work = desk.workshop.start(("answer", *key), work_on)
    try:
        return cast(V, work.future.result(ANSWER_WITHIN))
    except StillWorkingError:
        return work.reading()
    except CancelledError:
        raise cancelled() from None

"""An executor on a few threads of this process: for tests, and for work that waits on other work."""

from concurrent.futures import Future, ThreadPoolExecutor
from typing import Any

from hourglass.study.work import Task, TaskHandle


class InProcess:
    """Runs tasks on threads of this process."""

    def __init__(self, threads: int = 2) -> None:
        self._pool = ThreadPoolExecutor(threads, thread_name_prefix="work")

    def submit(self, task: Task, handle: TaskHandle) -> Future[Any]:
        """Begin a task on a thread."""
        return self._pool.submit(task, handle.progress)

    def close(self) -> None:
        """Let the threads end; what has not begun is let go."""
        self._pool.shutdown(wait=True, cancel_futures=True)

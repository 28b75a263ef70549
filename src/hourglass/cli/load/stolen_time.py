"""Which seconds of a measurement the machine really had: a shared one is taken away at times."""

import threading
import time
from pathlib import Path

CALM = 0.05
"""The share of a second's processor time that may go to others, and the second is still a calm one."""


class CalmSeconds:
    """Watches, second by second, how much of the processors' time went to other machines."""

    def __init__(self) -> None:
        self._calm: dict[int, bool] = {}
        self._ended = threading.Event()
        self._thread = threading.Thread(target=self._watch)

    def __enter__(self) -> "CalmSeconds":
        self._thread.start()
        return self

    def __exit__(self, *_: object) -> None:
        self._ended.set()
        self._thread.join()

    @property
    def share(self) -> float:
        """The share of the seconds that were calm."""
        return sum(self._calm.values()) / max(len(self._calm), 1)

    def during(self, begun: float, seconds: float) -> bool:
        """Whether all seconds from a moment on, by the monotonic clock, were calm."""
        return all(self._calm.get(k, False) for k in range(int(begun), int(begun + seconds) + 1))

    def _watch(self) -> None:
        stolen, all_of_it = _times()
        while not self._ended.wait(1 - time.monotonic() % 1):
            now_stolen, now_all = _times()
            share = (now_stolen - stolen) / max(now_all - all_of_it, 1)
            self._calm[int(time.monotonic() - 0.5)] = share < CALM
            stolen, all_of_it = now_stolen, now_all


def _times() -> tuple[int, int]:
    """Ticks that others had, and all ticks, since the machine was started."""
    with Path("/proc/stat").open(encoding="ascii") as file:
        ticks = [int(one) for one in file.readline().split()[1:9]]
    return ticks[7], sum(ticks)

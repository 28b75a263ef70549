"""Follow-ups that are known, and the lines of files that hold them."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

ROWS = 60


@dataclass(frozen=True, slots=True)
class Truth:
    """(n,) the days of follow-up, whether it ended in the event, and the group, row by row."""

    days: NDArray[np.int64]
    event: NDArray[np.bool_]
    group: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Extract:
    """A file and what it holds."""

    name: str
    data: bytes
    truth: Truth


def truth(seed: int, rows: int = ROWS) -> Truth:
    """Follow-ups of some subjects in two groups."""
    rng = np.random.default_rng(seed)
    days = 20 + rng.exponential(400, rows).astype(np.int64)
    event = rng.random(rows) < 0.6
    return Truth(days, event, tuple(("amber", "clear")[k % 2] for k in range(rows)))


def lines(*lines: str) -> bytes:
    """Lines of a text file."""
    return ("\n".join(lines) + "\n").encode()


def ended(t: Truth, k: int) -> str:
    """How a row ended, in a word."""
    return "dead" if t.event[k] else "alive"

"""What the core refuses, or cannot compute; the message of each gives the reason, in words for a person.

HourglassError
├── CoreError
│   ├── RefusedRowsError: rows that have no place in any analysis until somebody decides about them
│   └── NotEstimableError: there is nothing to estimate, or a search does not converge
│       └── UndecidedError: rounding leaves open whether an estimate is finite
├── UserError: what a person can mend, by its code and place
└── the refusals of the other layers: a file, a step, a statement, a study that is not there

Whatever else is raised is a fault of the program, and never a result.
"""

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass

import numpy as np

from hourglass.core.arrays import IntArray


@dataclass(frozen=True, slots=True)
class Refusal:
    """Why some rows have no place. ``rows`` are positions, counted from 0."""

    reason: str
    rows: IntArray


class HourglassError(Exception):
    """What the program refuses, in words that state to a person what is wrong."""


class UserError(HourglassError):
    """What a person can mend.

    Attributes:
        code: names the kind of refusal, the same whatever the sentence states.
        place: what of the request it is about; blank where that is the whole.
    """

    def __init__(self, sentence: str, code: str, place: str = "") -> None:
        self.code, self.place = code, place
        super().__init__(sentence)


class CoreError(HourglassError):
    """The data do not allow what was requested."""


class RefusedRowsError(CoreError):
    """Rows that have no place in any analysis until somebody decides about them."""

    def __init__(self, refusals: tuple[Refusal, ...]) -> None:
        self.refusals = refusals
        super().__init__("; ".join(f"{r.rows.size} rows: {r.reason}" for r in refusals))


class NotEstimableError(CoreError):
    """There is nothing to estimate, or a search for it does not converge."""


class UndecidedError(NotEstimableError):
    """Rounding leaves open whether an estimate is finite."""


@contextmanager
def singular_refused() -> Iterator[None]:
    """Refuse what needs the inverse of a matrix that has none: the data's doing, not a fault.

    Raises:
        NotEstimableError
    """
    try:
        yield
    except np.linalg.LinAlgError:
        raise NotEstimableError(
            "a matrix of the model has no inverse: some columns are almost the same"
        ) from None

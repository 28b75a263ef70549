"""Values that change over time, whole or a page at a time."""

from typing import Literal

import numpy as np
from pydantic import Field

from hourglass.analysis.shared.frozen_model import FrozenModel, Numbers, Values

PAGE = 4096
"""Times in a page: with a few columns well under what one answer may weigh."""
TIMES_SENT_WHOLE = 50
"""A series of so few times is always sent whole."""


class Series(FrozenModel):
    """Values that change over time, a column each.

    Attributes:
        rule: "from": a value holds from its time on, as a curve's; "until": up to and with its time,
            as the number at risk; "between": it moves along the logarithm between its times.
        time: (K,) ascending; ``columns``: (K,) values each.
        before: the values before the first time, one a column.
        end: nothing is read past this time.
        pages: where a series is too long to be sent whole, the first time of each of its pages;
            ``time`` and ``columns`` are then empty, and its pages are requested by ``key``.
        length: how many times there are.
    """

    rule: Literal["from", "until", "between"]
    time: Values
    columns: list[Values] = Field(default_factory=list)
    before: Numbers = Field(default_factory=list)
    end: float | None = None
    pages: list[float] = Field(default_factory=list)
    key: int | None = None
    length: int = 0

    @property
    def numbers(self) -> int:
        """How many numbers it holds."""
        return self.time.size * (1 + len(self.columns))

    def sent(self, key: int, *, whole: bool) -> "Series":
        """As it is sent: whole, or with its first page."""
        if whole or self.time.size <= TIMES_SENT_WHOLE:
            return self.model_copy(update={"length": self.time.size})
        nothing = np.empty(0)
        return self.model_copy(
            update={
                "time": nothing,
                "columns": [nothing for _ in self.columns],
                "pages": [float(t) for t in self.time[::PAGE]],
                "key": key,
                "length": self.time.size,
            }
        )

    def page(self, place: int) -> bytes:
        """A page: its times, then each column, as little-endian doubles; empty past the last."""
        part = slice(place * PAGE, (place + 1) * PAGE)
        columns = [np.asarray(one[part], dtype="<f8") for one in (self.time, *self.columns)]
        return b"".join(column.tobytes() for column in columns)

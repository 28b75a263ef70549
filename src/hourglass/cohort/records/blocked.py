"""What must be decided before the tables of a study can be joined."""

from collections.abc import Iterable

import numpy as np
from numpy.typing import NDArray

from hourglass.cohort.derive import Blocker
from hourglass.cohort.table import Table
from hourglass.cohort.words import grouped
from hourglass.core.errors import HourglassError


class BlockedError(HourglassError):
    """Something must be decided before the tables of a study can be joined."""

    def __init__(self, blocks: Iterable[Blocker]) -> None:
        self.blocks = tuple(blocks)
        super().__init__(" ".join(block.sentence for block in self.blocks))


def rows_block(
    name: str,
    there: NDArray[np.bool_],
    table: Table,
    what: str,
    *,
    before: str = "",
    apart: str = " ",
) -> Blocker:
    """A block about rows of a table: how many, what is wrong, and the first of their numbers.

    Args:
        before: what the sentence begins with; ``apart``: what stands between the rows and what is wrong.
    """
    numbers = table.numbers[there]
    count = "1 row" if numbers.size == 1 else f"{grouped(numbers.size)} rows"
    listed = ", ".join(map(str, numbers[:8].tolist())) + (", …" if numbers.size > 8 else "")
    where = f" of {name}" if name else ""
    sentence = f"{before}{count}{where}{apart}{what} (row {listed})."
    return Blocker(sentence, None, tuple(map(int, numbers)), name)

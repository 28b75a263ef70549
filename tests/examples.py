"""With how many made-up inputs a property is tried: few in a test run, many with the benchmarks."""

import os

MANY = bool(os.environ.get("HOURGLASS_MANY_EXAMPLES"))
FEWEST = 12


def examples(many: int) -> int:
    """So many inputs with ``./hourglass bench --properties``, a fifth of them otherwise."""
    return many if MANY else max(many // 5, FEWEST)

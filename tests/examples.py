"""With how many made-up inputs a property is tried: few in a test run, many with the benchmarks."""

import os

MANY_EXAMPLES = bool(os.environ.get("HOURGLASS_MANY_EXAMPLES"))
MIN_EXAMPLES = 12


def examples(many: int) -> int:
    """So many inputs with ``./hourglass bench --properties``, a fifth of them otherwise."""
    return many if MANY_EXAMPLES else max(many // 5, MIN_EXAMPLES)

"""Random follow-up with ties, censoring, late entry and counts."""

import numpy as np
import pytest

from core.literal import data as literal
from examples import MANY_EXAMPLES
from hourglass.core.followup import follow_up


class Sample:
    """The same rows for the program and for the literal transcription."""

    def __init__(self, seed: int, n: int = 40, late: bool = False, counts: bool = False) -> None:
        rng = np.random.default_rng(seed)
        self.x = np.column_stack(
            [rng.integers(0, 2, n), rng.normal(60, 12, n), rng.normal(0, 1e-4, n)]
        )
        rate = np.exp(0.6 * self.x[:, 0] - 0.03 * (self.x[:, 1] - 60))
        self.t = np.ceil(rng.exponential(10 / rate) * 2) / 2
        self.s = rng.choice([0, 1, 2], n, p=[0.3, 0.6, 0.1])
        entry = np.where(rng.random(n) < 0.4, self.t * rng.random(n) * 0.9, -np.inf)
        self.e = np.round(entry, 1) if late else np.full(n, -np.inf)
        self.e = np.where(self.e >= self.t, -np.inf, self.e)
        self.w = rng.integers(1, 4, n) if counts else np.ones(n, dtype=int)
        self.group = rng.integers(0, 3, n)
        self.stratum = rng.integers(0, 2, n)
        self.data = follow_up(self.t, self.s, self.e, self.w)
        self.literal = literal.rows(self.t, self.s, self.e, self.w)
        self.literal_strata = literal.rows(self.t, self.s, self.e, self.w, stratum=self.stratum)


@pytest.fixture(
    params=[
        (s, late, counts)
        for s in ((1, 2) if MANY_EXAMPLES else (1,))
        for late in (0, 1)
        for counts in (0, 1)
    ],
    ids=lambda p: f"seed{p[0]}{'-late' * p[1]}{'-counts' * p[2]}",
)
def sample(request):
    seed, late, counts = request.param
    return Sample(seed, late=bool(late), counts=bool(counts))

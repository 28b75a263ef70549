"""Columns typed together are what each is when it is typed by itself."""

import time

import numpy as np
import pytest

from hourglass.cohort.reading import many_columns
from hourglass.cohort.reading.read import read
from hourglass.cohort.table import NumberColumn

CELLS = [
    ["1", "2.50", "-3"], ["", "7", ""], ["007", "1", "2"], ["1e3", "2", "3"], ["NA", "2", "3"],
    ["+4", "5", "6"], ["1234567890123456", "1", "2"], ["a", "b", "a"], ["", "", ""], [" 1", "2", "3"],
    ["0.1234567890123", "1", "2"], ["-0", "0", "0.0"], ["2020-01-02", "2020-02-03", "2021-01-01"],
    [".5", "1.", "2"], ["999", "1", "2"],
]  # fmt: skip


@pytest.mark.parametrize("missing", [(), ("999",)])
def test_typed_together_as_each_by_itself(monkeypatch, missing):
    names = ",".join(f"c{k}" for k in range(len(CELLS)))
    rows = "\n".join(",".join(column[r] for column in CELLS) for r in range(3))
    data = f"{names}\n{rows}\n".encode()
    recipe = read(data).recipe.model_copy(update={"missing": missing})
    alone = read(data, recipe).table
    monkeypatch.setattr(many_columns, "COLUMNS_TYPED_TOGETHER", 1)
    monkeypatch.setattr(many_columns, "MAX_CELLS", 12)
    together = read(data, recipe).table
    for a, b in zip(alone.columns, together.columns, strict=True):
        assert (a.kind, a.missing.tolist()) == (b.kind, b.missing.tolist()), a.name
        assert [a.cell(k) for k in range(3)] == [b.cell(k) for k in range(3)]
        if isinstance(a, NumberColumn):
            assert np.array_equal(a.values, b.values, equal_nan=True)
            assert a.decimals == b.decimals
            written = [None if c.as_written is None else c.as_written.cell(0) for c in (a, b)]
            assert written[0] == written[1]


def test_three_thousand_columns_take_little_longer_than_their_cells():
    def wide(columns, rows):
        rng = np.random.default_rng(1)
        cells = rng.normal(size=(rows, columns)).round(3).astype(str)
        lines = [",".join(f"x{k}" for k in range(columns)), *(",".join(line) for line in cells)]
        return ("\n".join(lines) + "\n").encode()

    def seconds(data):
        begun = time.perf_counter()
        read(data)
        return time.perf_counter() - begun

    long, broad = wide(30, 10_000), wide(3_000, 100)
    ratio = min(seconds(broad) for _ in range(2)) / min(seconds(long) for _ in range(2))
    assert ratio < 12, "columns one by one take some 25 times as long"

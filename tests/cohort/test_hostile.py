"""Files made to break the reader: refused in words, quickly, without much memory."""

import io
import multiprocessing
import random
import re
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

import pyarrow as pa
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pyarrow import parquet

from examples import examples
from hostile_files import HOSTILE, reading, reading_hostile
from hourglass.cohort.findings.find import find
from hourglass.cohort.layouts import recognise
from hourglass.cohort.proposal.propose import propose
from hourglass.cohort.reading.read import read
from hourglass.cohort.reading.recipe import Limits, Recipe, UnreadableFileError

FOLDER = Path(__file__).parents[2] / "demo" / "imports"
FILES = [p.read_bytes() for p in sorted(FOLDER.iterdir())]


def flat_parquet(rows):
    out = io.BytesIO()
    parquet.write_table(pa.table({"x": pa.array([1]).take(pa.array([0] * rows))}), out)
    return out.getvalue()


@pytest.fixture(scope="module")
def apart():
    """Runs a function in a process of its own: the peak memory of one that others share is theirs too."""
    forking = multiprocessing.get_context("forkserver")
    forking.set_forkserver_preload(["hostile_files", "hourglass.cohort.reading.packed"])
    with ProcessPoolExecutor(1, forking, max_tasks_per_child=1) as executor:
        yield lambda do, *given: executor.submit(do, *given).result()


@pytest.mark.parametrize("place", range(len(HOSTILE)), ids=[one.name for one in HOSTILE])
def test_a_hostile_file_is_read_or_refused_in_words(apart, place):
    outcome, grown, size, seconds = apart(reading_hostile, place)
    words = HOSTILE[place].words
    if words is None:
        assert outcome[0] >= 1 if isinstance(outcome, tuple) else len(outcome) > 10
    else:
        assert re.search(words, outcome), outcome
    assert grown < max(8 * size, 400 * 2**20)
    assert seconds < 30, "within 5 seconds on a calm machine"


def test_a_long_run_of_digits_in_quotation_marks_is_text():
    text = "9" * 6_000
    found = read(b'[{"a":"say \\"' + text.encode() + b'","t":1}]').table.column("a")
    assert found.cell(0) == f'say "{text}'


def test_a_text_that_every_row_repeats_stays_one_text(apart):
    # Written out, thirty thousand letters in 200,000 rows would be 6 GB.
    rows, out = 200_000, io.BytesIO()
    for kind in (pa.string(), pa.large_string(), pa.binary()):
        text = pa.array(["ab" * 15_000], kind)
        parquet.write_table(
            pa.table({"s": pa.DictionaryArray.from_arrays([0] * rows, text), "t": range(rows)}), out
        )
        outcome, grown = apart(reading, out.getvalue())
        assert outcome == (rows, 1)
        assert grown < 200 * 2**20
        out = io.BytesIO()


def test_more_cells_than_allowed_are_refused_before_they_are_made():
    with pytest.raises(UnreadableFileError, match="at most 100 cells"):
        read(b"a,b\n" + b"1,2\n" * 60, limits=Limits(most_cells=100))
    with pytest.raises(UnreadableFileError, match=r"at most 1.000 cells"):
        read(flat_parquet(2_000), limits=Limits(most_cells=1_000))


def test_memory_stays_within_four_times_the_file(apart):
    rng = random.Random(3)
    line = ",".join(f"{rng.random():.6f}" for _ in range(12)) + ",some words here\n"
    data = (",".join(f"c{k}" for k in range(13)) + "\n" + line * 400_000).encode()
    (rows, _), grown = apart(reading, data)
    assert rows == 400_000
    assert grown < 4 * len(data)


@st.composite
def damaged(draw):
    """One of the demo imports with bytes changed, cut out, doubled or cut off."""
    data = bytearray(draw(st.sampled_from(FILES)))
    for _ in range(draw(st.integers(1, 4))):
        at = draw(st.integers(0, max(len(data) - 1, 0)))
        end = at + draw(st.integers(1, 40))
        match draw(st.sampled_from(["change", "cut", "double", "stop"])):
            case "change":
                data[at:end] = draw(st.binary(min_size=1, max_size=8))
            case "cut":
                del data[at:end]
            case "double":
                data[at:at] = data[at:end]
            case "stop":
                del data[at:]
    return bytes(data)


@settings(max_examples=examples(250), deadline=10_000)
@given(damaged())
def test_damaged_files_are_read_or_refused_in_words(data):
    try:
        found = read(data)
    except UnreadableFileError as refused:
        text = str(refused)
    else:
        statement = propose(found.table)
        find(found.table, statement)
        text = recognise(found.table)[-1].reason
        assert found.table.size >= 1
    assert len(text) > 10
    assert "Traceback" not in text


recipes = st.builds(
    Recipe,
    delimiter=st.sampled_from([",", ";", "\t", "|"]),
    encoding=st.sampled_from(["UTF-8", "UTF-16", "Windows-1252"]),
    quote=st.sampled_from(['"', "'", ""]),
    header=st.integers(0, 8),
    footer=st.integers(0, 4),
    decimal=st.sampled_from([".", ","]),
    thousands=st.sampled_from(["", ",", ".", " ", "'"]),
)


@settings(max_examples=examples(120), deadline=10_000)
@given(st.sampled_from(FILES), recipes)
def test_any_recipe_reads_any_file_or_gives_the_reason_not(data, recipe):
    try:
        size = read(data, recipe, most_rows=50).table.size
    except UnreadableFileError as refused:
        size = len(str(refused))
    assert size >= 1

"""A file that breaks the reader, or takes all it can get, ends only the process it is read in."""

import multiprocessing
import signal
import time
from concurrent.futures import ThreadPoolExecutor

import pytest

from hourglass.api import reading_turns
from hourglass.api.reading_process import FileReader
from hourglass.api.reading_turns import ReadingTurns
from hourglass.cohort.parquet import from_parquet
from hourglass.cohort.reading.packed import packed
from hourglass.cohort.reading.read import read
from hourglass.cohort.reading.recipe import Limits, Recipe, UnreadableFileError
from hourglass.core.progress import CancelledError, no_progress
from workbooks import shared_text

MIB = 2**20
READER = FileReader(Limits(), 2_000 * MIB, 60)


def test_what_is_read_apart_is_what_is_read_here():
    data = b"t,s\n1,1\n2,0\n"
    found = READER.read(data, None, no_progress)
    assert from_parquet(found.table).column("t").values.tolist() == [1, 2]
    assert found == packed(read(data))
    again = READER.read(data, Recipe(), no_progress)
    assert again.table == found.table
    assert "encoding" in {e.about for e in again.evidence}, "what speaks for a way stays to be seen"


def test_a_refusal_is_carried_over():
    with pytest.raises(UnreadableFileError, match="is empty"):
        READER.read(b"  \n", None, no_progress)


@pytest.mark.parametrize("form", ["sheet", "text"])
def test_memory_that_is_not_to_be_had_is_a_sentence(form):
    small = FileReader(Limits(most_text=2**40), 400 * MIB, 60)
    if form == "sheet":
        data = shared_text("ab" * 15_000, 120_000)
    else:
        data = b"a,b\n" + b"".join(b"%d,x%d\n" % (k, k) for k in range(3_000_000))
    with pytest.raises(UnreadableFileError, match="more than 400 MB of memory"):
        small.read(data, None, no_progress)


def test_a_reader_that_breaks_takes_nothing_with_it():
    with pytest.raises(UnreadableFileError, match="made the reader break off"):
        READER._apart(signal.raise_signal, (signal.SIGSEGV,), no_progress)
    with pytest.raises(ZeroDivisionError):
        READER._apart(divmod, (1, 0), no_progress)


def test_time_runs_out_in_a_sentence():
    hasty = FileReader(Limits(), 2_000 * MIB, 0.5)
    with pytest.raises(UnreadableFileError, match="Reading the file took longer"):
        hasty._apart(time.sleep, (60,), no_progress)
    assert multiprocessing.active_children() == []


def test_a_small_file_is_read_while_slow_ones_are_many(monkeypatch):
    """Each slow one makes way after a moment; none of them is given up."""
    monkeypatch.setattr(reading_turns, "SOON", 1.0)
    reader = FileReader(Limits(), 2_000 * MIB, 20, ReadingTurns(fresh=2, long=1))
    reader.read(b"t,s\n1,1\n", None, no_progress)  # what processes are forked from is there
    with ThreadPoolExecutor(6) as threads:
        slow = [
            threads.submit(reader._apart, sum, (range(60_000_000 + k),), no_progress, 10**6)
            for k in range(5)
        ]
        time.sleep(0.3)
        assert threads.submit(reader.read, b"t,s\n1,1\n2,0\n", None, no_progress).result().rows == 2
        assert sum(one.done() for one in slow) < 3, "it did not wait for all of them"
        assert [one.result(60) for one in slow] == [sum(range(60_000_000 + k)) for k in range(5)]
    assert multiprocessing.active_children() == []


def test_a_reading_nobody_wants_any_more_is_ended():
    def gone(what, share):
        raise CancelledError

    with pytest.raises(CancelledError):
        READER._apart(time.sleep, (60,), gone)
    assert multiprocessing.active_children() == []

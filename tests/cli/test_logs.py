"""The log: our own events, the errors apart, and none of what libraries warn of."""

import json
import logging
from pathlib import Path

import pytest
import structlog

from hourglass.cli.logs import LARGEST, write_logs


@pytest.fixture
def folder(tmp_path):
    root = logging.getLogger()
    before, level = root.handlers[:], root.level
    write_logs(tmp_path)
    yield tmp_path
    for handler in root.handlers:
        handler.close()
    root.handlers, root.level = before, level
    structlog.reset_defaults()


def events(file):
    return [json.loads(line)["event"] for line in file.read_text().splitlines()]


def test_libraries_warn_in_vain_and_errors_are_kept_apart(folder):
    ours = structlog.get_logger("hourglass")
    ours.info("request")
    ours.warning("the database does not answer")
    for library in ("weasyprint", "fontTools.subset", "some.other"):
        logging.getLogger(library).warning("Ignored `overflow-x: auto`, unknown property.")
        logging.getLogger(library).error("broken")
    assert events(folder / "hourglass.jsonl") == [
        "request", "the database does not answer", "broken", "broken", "broken",
    ]  # fmt: skip
    assert events(folder / "errors.jsonl") == [
        "the database does not answer", "broken", "broken", "broken",
    ]  # fmt: skip


def test_a_log_that_cannot_be_written_is_mentioned_once(folder, capsys):
    ours = structlog.get_logger("hourglass")
    file = logging.getLogger().handlers[0]
    whole, file.stream = file.stream, Path("/dev/full").open("w", encoding="utf-8")  # noqa: SIM115
    for _ in range(5):
        ours.info("request")
    assert capsys.readouterr().err.count("The log cannot be written: [Errno 28]") == 1
    file.stream = whole
    ours.info("there is room again")
    assert events(folder / "hourglass.jsonl") == ["there is room again"]


def test_the_log_has_its_size_and_the_errors_stay(folder):
    ours = structlog.get_logger("hourglass")
    ours.error("what went wrong")
    long = "x" * 10_000
    for _ in range(5 * LARGEST // len(long)):
        ours.info(long)
    files = list(folder.glob("hourglass.jsonl*"))
    assert len(files) == 4
    assert all(file.stat().st_size <= LARGEST for file in files)
    assert events(folder / "errors.jsonl") == ["what went wrong"]

"""How the program writes its log: a line of JSON for each event, in files that take turns."""

import logging
import sys
from logging.handlers import RotatingFileHandler
from pathlib import Path

import structlog

QUIET = ("weasyprint", "fontTools", "matplotlib", "psycopg.pool")
"""Libraries that set a level of their own."""
LARGEST, KEPT = 10 * 2**20, 3
"""Bytes of a file of the log, and how many older files are kept."""


class _LogFile(RotatingFileHandler):
    """A file of the log; that it cannot be written to, on a full disk for one, is reported once."""

    def __init__(self, path: Path) -> None:
        super().__init__(path, maxBytes=LARGEST, backupCount=KEPT, encoding="utf-8")
        self._failed = self._shown = False

    def emit(self, record: logging.LogRecord) -> None:
        self._failed = False
        super().emit(record)
        self._shown = self._failed

    def handleError(self, record: logging.LogRecord) -> None:  # noqa: N802 (the library's name)
        self._failed = True
        if not self._shown:
            print(
                f"The log cannot be written: {sys.exc_info()[1]}. The program goes on without it.",
                file=sys.stderr,
            )


def write_logs(folder: Path) -> None:
    """Write the program's events to ``folder``, and what is wrong to the error stream as well."""
    folder.mkdir(parents=True, exist_ok=True)
    shared: list[structlog.typing.Processor] = [
        structlog.contextvars.merge_contextvars,
        structlog.stdlib.add_log_level,
        structlog.processors.TimeStamper(fmt="iso", utc=True),
        structlog.processors.format_exc_info,
    ]
    structlog.configure(
        processors=[*shared, structlog.stdlib.ProcessorFormatter.wrap_for_formatter],
        logger_factory=structlog.stdlib.LoggerFactory(),
        wrapper_class=structlog.stdlib.BoundLogger,
        cache_logger_on_first_use=True,
    )
    as_json = structlog.stdlib.ProcessorFormatter(
        processors=[
            structlog.stdlib.ProcessorFormatter.remove_processors_meta,
            structlog.processors.JSONRenderer(ensure_ascii=False),
        ],
        foreign_pre_chain=shared,
    )
    file = _LogFile(folder / "hourglass.jsonl")
    # What is wrong is kept apart: a busy day's requests push none of it out.
    wrong = _LogFile(folder / "errors.jsonl")
    shown = logging.StreamHandler(sys.stderr)
    wrong.setLevel(logging.WARNING)
    shown.setLevel(logging.WARNING)
    handlers: list[logging.Handler] = [file, wrong, shown]
    for handler in handlers:
        handler.setFormatter(as_json)
    # Libraries warn of every rule of style that paper has no use for: only their errors are ours to read.
    logging.basicConfig(handlers=handlers, level=logging.ERROR, force=True)
    logging.getLogger("hourglass").setLevel(logging.INFO)
    for library in QUIET:
        logging.getLogger(library).setLevel(logging.ERROR)


def write_no_logs() -> None:
    """Leave the output to the messages of a command."""
    structlog.configure(wrapper_class=structlog.make_filtering_bound_logger(logging.WARNING))

"""How the program writes its log: a line of JSON for each event, to the error stream."""

import logging
import sys

import structlog


def write_logs() -> None:
    """Send the program's own events, and the warnings of its libraries, to the error stream."""
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
    handler = logging.StreamHandler(sys.stderr)
    handler.setFormatter(
        structlog.stdlib.ProcessorFormatter(
            processors=[
                structlog.stdlib.ProcessorFormatter.remove_processors_meta,
                structlog.processors.JSONRenderer(ensure_ascii=False),
            ],
            foreign_pre_chain=shared,
        )
    )
    logging.basicConfig(handlers=[handler], level=logging.WARNING, force=True)
    logging.getLogger("hourglass").setLevel(logging.INFO)

"""Logs of the server: a line of JSON each, on standard error, for whatever gathers them."""

import logging
import sys

import structlog


def log_as_lines() -> None:
    """Log as lines of JSON from now on; no line holds what stands in variables.

    Where somebody reads them as they come, in a terminal, only what is wrong is logged.
    """
    least = logging.WARNING if sys.stderr.isatty() else logging.INFO
    structlog.configure(
        wrapper_class=structlog.make_filtering_bound_logger(least),
        processors=[
            structlog.contextvars.merge_contextvars,
            structlog.processors.add_log_level,
            structlog.processors.TimeStamper(fmt="iso", utc=True),
            structlog.processors.format_exc_info,
            structlog.processors.JSONRenderer(),
        ],
        logger_factory=structlog.PrintLoggerFactory(sys.stderr),
        cache_logger_on_first_use=True,
    )

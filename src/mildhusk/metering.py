"""Tells how it goes at an address of its own, as text that monitoring reads (OpenMetrics).

On loopback unless another address is given: it asks for no password, and tells no names.
"""

import time
from collections.abc import Iterator
from datetime import UTC, datetime

import structlog
from prometheus_client import CollectorRegistry, start_http_server
from prometheus_client.core import GaugeMetricFamily
from prometheus_client.multiprocess import MultiProcessCollector
from prometheus_client.registry import Collector
from sqlalchemy import Engine, select
from sqlalchemy.exc import SQLAlchemyError

from mildhusk.jobs.queue import PostgresQueue
from mildhusk.store.database import open_engine, open_sessions
from mildhusk.store.tables import Workshop

_AGAIN_S = 30.0
_log = structlog.get_logger()


def meter(database_url: str, place: str) -> None:
    """Tell whoever asks at an address and a port, for as long as this process lives."""
    address, _, port = place.rpartition(":")
    registry = CollectorRegistry()
    MultiProcessCollector(registry)  # type: ignore[no-untyped-call]
    engine = open_engine(database_url, connections=1)
    registry.register(_OfDatabase(engine, PostgresQueue(database_url)))
    while True:
        try:
            _, thread = start_http_server(int(port), address, registry)
            thread.join()
        except OSError as error:
            # Taken by somebody else; what serves goes on without.
            _log.error("metrics", place=place, why=str(error))
        time.sleep(_AGAIN_S)


class _OfDatabase(Collector):
    """Whether the database answers, what waits in the queue, when the last backup was made."""

    def __init__(self, engine: Engine, queue: PostgresQueue) -> None:
        self._sessions, self._queue = open_sessions(engine), queue

    def collect(self) -> Iterator[GaugeMetricFamily]:
        """Yield what is so now."""
        answers = GaugeMetricFamily("mildhusk_database_up", "1 while the database answers.")
        try:
            with self._sessions() as session:
                open_jobs = self._queue.open_jobs(session)
                backed_up = session.scalars(select(Workshop.backed_up_at)).all()
        except SQLAlchemyError:
            answers.add_metric([], 0.0)
            yield answers
            return
        answers.add_metric([], 1.0)
        yield answers
        jobs = GaugeMetricFamily(
            "mildhusk_jobs", "Jobs that wait or run.", labels=("kind", "state")
        )
        oldest = GaugeMetricFamily(
            "mildhusk_oldest_waiting_job_seconds", "Since the job that waits longest was asked for."
        )
        for kind, state, count in open_jobs.counts:
            jobs.add_metric([kind, state], count)
        oldest.add_metric([], open_jobs.longest_wait_s)
        yield from (jobs, oldest)
        # Of several workshops the one whose backup is oldest; of one without any, none.
        if backed_up and all(backed_up):
            age = GaugeMetricFamily("mildhusk_backup_age_seconds", "Since the last good backup.")
            now = datetime.now(UTC)
            age.add_metric([], max((now - at).total_seconds() for at in backed_up if at))
            yield age

"""The queue in PostgreSQL: jobs wait in the transaction that asked for them."""

import asyncio
from collections.abc import Callable
from typing import Any, cast
from uuid import UUID

import procrastinate
from procrastinate.psycopg_connector import PsycopgConnector
from sqlalchemy import make_url
from sqlalchemy.orm import Session

_TASK = "do"
# A worker that was not heard of for so long is taken for dead, and its jobs are given to others.
_HEARTBEAT_S, _DEAD_AFTER_S = 2.0, 10.0
_LOOK_FOR_DEAD_S = 5.0


class PostgresQueue:
    """The queue on a database.

    Parameters
    ----------
    database_url : str
    run : callable or None
        Does a job; needed by a worker only.
    """

    def __init__(self, database_url: str, run: Callable[[UUID], None] | None = None) -> None:
        plain = make_url(database_url).set(drivername="postgresql")
        connector = PsycopgConnector(conninfo=plain.render_as_string(hide_password=False))
        self._app = procrastinate.App(connector=connector)

        @self._app.task(name=_TASK)
        def do(job_id: str) -> None:
            if run is not None:
                run(UUID(job_id))

        self._do = do

    def put(self, session: Session, job_id: UUID) -> None:
        """Let a job wait, from the moment the transaction of the session is committed."""
        # The package's own connection type; this one is the session's.
        connection = cast(Any, session.connection().connection.driver_connection)
        self._do.configure(connection=connection).defer(job_id=str(job_id))

    def work(self, name: str) -> None:
        """Do jobs until told to stop by a signal."""
        asyncio.run(self._work(name))

    async def _work(self, name: str) -> None:
        async with self._app.open_async():
            looking = asyncio.create_task(self._give_on())
            try:
                await self._app.run_worker_async(
                    name=name,
                    concurrency=1,
                    fetch_job_polling_interval=2.0,
                    update_heartbeat_interval=_HEARTBEAT_S,
                    stalled_worker_timeout=_DEAD_AFTER_S,
                    shutdown_graceful_timeout=2.0,
                    delete_jobs="successful",
                )
            finally:
                looking.cancel()

    async def _give_on(self) -> None:
        """Let the jobs of dead workers wait again."""
        manager = self._app.job_manager
        while True:
            for job in await manager.get_stalled_jobs(seconds_since_heartbeat=_DEAD_AFTER_S):
                await manager.retry_job(job)
            await asyncio.sleep(_LOOK_FOR_DEAD_S)

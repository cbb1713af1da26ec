"""Starts the stand-ins that ship with the demo, each at a port of its own on loopback."""

import asyncio
from contextlib import suppress
from datetime import UTC, datetime

from sqlalchemy.exc import DBAPIError

from mildhusk.devices.protocol import DeviceKind
from mildhusk.devices.standins.serving import ServedStandIn
from mildhusk.devices.standins.shipped import shipped_standin
from mildhusk.services.devices import place_standins
from mildhusk.services.transaction import Transaction
from mildhusk.services.workshop import found_workshop
from mildhusk.store.database import open_engine, open_sessions


def stand_in(database_url: str) -> None:
    """Run the stand-ins of the workshop on a database until the process ends."""
    # A database that is away is asked again by whoever keeps this process.
    with suppress(DBAPIError):
        asyncio.run(_run(database_url))


async def _run(database_url: str) -> None:
    served = {kind: ServedStandIn(shipped_standin(kind)) for kind in DeviceKind}
    for one in served.values():
        await one.start()
    addresses = {kind: f"socket://127.0.0.1:{one.port}" for kind, one in served.items()}
    sessions, now = open_sessions(open_engine(database_url)), datetime.now(UTC)
    with sessions.begin() as session:
        place_standins(Transaction(session, found_workshop(session, now), now), addresses)
    await asyncio.gather(*(one.run() for one in served.values()))

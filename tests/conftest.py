"""A throw-away PostgreSQL cluster for each test process."""

import shutil
import tempfile
from collections.abc import Iterator
from pathlib import Path

import pytest
from sqlalchemy import Engine

from mildhusk.cluster import Cluster
from mildhusk.store.database import migrate, open_engine


@pytest.fixture(scope="session")
def cluster() -> Iterator[Cluster]:
    folder = Path(tempfile.mkdtemp(prefix="mildhusk-test-"))
    made = Cluster(folder, careless=True)
    made.start()
    yield made
    made.stop()
    shutil.rmtree(folder)


@pytest.fixture(scope="session")
def engine(cluster: Cluster) -> Iterator[Engine]:
    made = open_engine(cluster.url)
    migrate(made)
    yield made
    made.dispose()

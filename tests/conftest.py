"""A throw-away PostgreSQL cluster for each test process."""

from collections.abc import Iterator

import pytest
from sqlalchemy import Engine

from mildhusk.cluster import Cluster
from mildhusk.store.database import migrate, open_engine
from served import temporary_cluster


@pytest.fixture(scope="session")
def cluster() -> Iterator[Cluster]:
    with temporary_cluster() as made:
        yield made


@pytest.fixture(scope="session")
def engine(cluster: Cluster) -> Iterator[Engine]:
    made = open_engine(cluster.url)
    migrate(made)
    yield made
    made.dispose()

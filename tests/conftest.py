"""A throw-away PostgreSQL cluster for each test process, and the same cases every time."""

from collections.abc import Iterator
from pathlib import Path

import pytest
from hypothesis import settings
from sqlalchemy import Engine

from mildhusk.cluster import Cluster
from mildhusk.store.database import migrate, open_engine
from served import temporary_cluster

HERE = Path(__file__).parent

# What lands was tested by the very cases that are tested where it lands.
# A slow moment of the machine is no fault.
settings.register_profile("same", derandomize=True, deadline=None)
settings.load_profile("same")


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """Begin with what waits most, browsers and processes; what is short evens out the end."""
    items.sort(key=lambda one: (one.get_closest_marker("browser") is None, one.path.parent != HERE))


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

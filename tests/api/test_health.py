"""What looks after the application asks whether it lives, and whether it can answer."""

from uuid import uuid4

from alembic.script import ScriptDirectory
from sqlalchemy import create_engine
from sqlalchemy.orm import sessionmaker

from api.conftest import API, Clock, QueueInThisThread
from mildhusk.api.app import create_app
from mildhusk.store.database import migration_config


def test_it_lives_and_tells_of_which_revision_its_tables_are(client):
    assert client.get(f"{API}/health").json["version"]
    head = ScriptDirectory.from_config(migration_config()).get_current_head()
    assert client.get(f"{API}/ready").json["tables"] == head


def test_without_its_database_it_lives_and_is_not_ready():
    away = sessionmaker(create_engine("postgresql+psycopg://nobody@127.0.0.1:1/none"))
    client = create_app(away, QueueInThisThread(away, Clock()), uuid4()).test_client()
    assert client.get(f"{API}/health").status_code == 200
    said = client.get(f"{API}/ready")
    assert said.status_code == 503
    assert said.mimetype == "application/problem+json"

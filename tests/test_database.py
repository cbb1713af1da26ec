"""How the database is reached: a line that is cut is noticed, and its address has the last word."""

from sqlalchemy import text

from mildhusk.store.database import open_engine, reached_by


def told(url, setting):
    engine = open_engine(url)
    with engine.connect() as connection:
        found = connection.execute(text(f"SHOW {setting}")).scalar_one()
    engine.dispose()
    return found


def test_both_ends_ask_whether_the_other_is_there(cluster):
    # PostgreSQL's manual, 20.3.2: 0, which is two hours on most systems, unless it is set.
    assert told(cluster.url, "tcp_keepalives_idle") == "5"
    assert told(cluster.url, "tcp_user_timeout") in ("10s", "10000")
    assert reached_by(cluster.url)["keepalives_idle"] == 5


def test_what_the_address_says_goes_before(cluster):
    url = f"{cluster.url}?options=-c%20application_name%3Dfar&keepalives_idle=60"
    assert told(url, "application_name") == "far"
    assert reached_by(url).keys().isdisjoint({"options", "keepalives_idle"})

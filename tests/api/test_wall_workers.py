"""Walls by real workers: two at once, one killed in mid-run, the database restarted under it."""

import pytest

from api.wall_jobs import asked, filled_cluster, job, until, walls
from mildhusk.store.tables import JobStatus
from served import worker


@pytest.fixture(scope="module")
def own_cluster():
    with filled_cluster() as made:
        yield made


def test_a_worker_killed_in_mid_run_and_a_database_restarted_lose_nothing(own_cluster):
    before = walls(own_cluster.url)
    key = asked(own_cluster.url, "chorus")
    with worker(own_cluster.url) as first:
        until(lambda: job(own_cluster.url, key)[1] > 0.15, "the run on its way")
        first.kill()
        first.join(20)
    assert job(own_cluster.url, key)[0] == JobStatus.RUNNING
    own_cluster.stop()
    own_cluster.start()
    with worker(own_cluster.url):
        until(lambda: job(own_cluster.url, key)[0] == JobStatus.DONE, "the job done")
    # Begun twice, ended once, one result.
    assert job(own_cluster.url, key)[2] == 2
    assert walls(own_cluster.url) == before + 1


def test_two_workers_share_what_is_asked(own_cluster):
    url = own_cluster.url
    keys = [asked(url, "chorus", motion=f"machine:{rpm},3", edge_m=0.0095) for rpm in (5, 7, 9)]
    seen = set()
    with worker(url), worker(url):

        def both_at_work():
            states = [job(url, key)[0] for key in keys]
            seen.add(states.count(JobStatus.RUNNING))
            return all(one == JobStatus.DONE for one in states)

        until(both_at_work, "all walls done")
    assert 2 in seen, "two of them were under way at once"
    assert {job(url, key)[2] for key in keys} == {1}

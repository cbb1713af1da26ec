"""What is logged: enough to find a fault by its number, and nothing that lets somebody in."""

import json
import subprocess
import sys

import pytest
from structlog.testing import capture_logs

from api.conftest import API
from api.test_access import OWNERS, browser


def test_a_change_is_logged_by_the_number_of_its_answer_and_a_look_is_not(client):
    with capture_logs() as logged:
        answer = client.put(f"{API}/workshop/hour-rate", json={"hour_rate": "30"})
        looked = client.get(f"{API}/pieces")
    (line,) = logged
    assert (line["event"], line["log_level"]) == ("answered", "info")
    assert (line["method"], line["status"]) == ("PUT", 200)
    assert line["address"] == f"{API}/workshop/hour-rate"
    numbers = {one.headers["X-Request-Id"] for one in (answer, looked)}
    assert len(numbers) == 2
    assert all(len(one) == 32 for one in numbers)


def test_no_secret_stands_in_a_log(client):
    owner = browser(client)
    with capture_logs() as logged:
        owner.post(f"{API}/accounts/first", json={"name": "Ilse", "password": OWNERS})
        made = owner.post(f"{API}/invitations", json={"role": "guest"}).json
        owner.post(f"{API}/invitations/welcome", json={"secret": made["secret"]})
        calendar = owner.post(f"{API}/days/calendar", json={}).json["path"]
        owner.get(calendar)
        owner.post(f"{API}/sign-in", json={"name": "Ilse", "password": "not that one"})
    kept = json.dumps(logged)
    secret = calendar.rpartition("/")[2].removesuffix(".ics")
    tokens = [one.value for one in owner._cookies.values()]
    for one in (OWNERS, "not that one", made["secret"], secret, *tokens):
        assert one not in kept
    assert [one["by"] for one in logged[:2]] == ["", "Ilse"]
    assert logged[-1]["status"] == 401


@pytest.mark.parametrize("text", ["plain", 'with "quotes"\nand a second line'])
def test_a_line_of_the_server_is_json_with_the_number_of_its_request(text):
    code = (
        "import sys, structlog\n"
        "from mildhusk.logs import log_as_lines\n"
        "log_as_lines()\n"
        "structlog.contextvars.bind_contextvars(request='abc')\n"
        "try:\n    1 / 0\nexcept ZeroDivisionError as error:\n"
        "    structlog.get_logger().error(sys.argv[1], exc_info=error)\n"
    )
    done = subprocess.run(
        [sys.executable, "-c", code, text], capture_output=True, text=True, timeout=60, check=True
    )
    assert done.stdout == ""
    (line,) = done.stderr.splitlines()
    told = json.loads(line)
    assert (told["event"], told["request"], told["level"]) == (text, "abc", "error")
    assert "ZeroDivisionError" in told["exception"]
    assert told["timestamp"].endswith("Z")

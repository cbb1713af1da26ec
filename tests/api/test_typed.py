"""Fields on the screen are read by the parser of the command line."""

import pytest

from api.conftest import API


@pytest.mark.parametrize(
    ("text", "kind", "system", "value"),
    [
        ("40,000", "kg", "metric", 40.0),
        ("1 1/2", "m", "imperial", 0.0381),
        ("16", "m3", "imperial", 16 * 29.57353e-6),
        ("70", "K", "imperial", 294.2611),
        ("3 min 20 s", "min", "metric", 200.0),
        ("2,5", "share", "metric", 0.025),
    ],
)
def test_what_is_typed_is_read_with_the_unit_of_its_field(client, text, kind, system, value):
    body = {"text": text, "kind": kind, "system": system}
    answer = client.post(f"{API}/quantities", json=body)
    assert answer.json["value"] == pytest.approx(value, rel=1e-6)


def test_what_can_be_read_in_two_ways_is_told_with_both(client):
    body = {"text": "1,500 kg", "kind": "kg", "system": "metric"}
    answer = client.post(f"{API}/quantities", json=body)
    assert (answer.status_code, answer.json["value"]) == (200, None)
    assert "1500 kg or as 1.5 kg" in answer.json["said"]

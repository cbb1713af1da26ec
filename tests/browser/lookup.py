"""What a browser test looks up at the server beside the screen."""

import json
import urllib.request
from typing import Any


def fetch(address: str, path: str) -> Any:
    with urllib.request.urlopen(f"{address}api/v1{path}", timeout=20) as answer:
        return json.load(answer)


def fetch_bytes(address: str, path: str) -> bytes:
    with urllib.request.urlopen(f"{address}api/v1{path}", timeout=20) as answer:
        return bytes(answer.read())


def sheet_named(address: str, words: str) -> dict[str, Any]:
    found = [one for one in fetch(address, "/sheets")["sheets"] if words in one["name"]]
    return dict(fetch(address, f"/sheets/{found[0]['id']}"))


def start_pour(address: str, words: str) -> dict[str, Any]:
    return post(address, "/pours", {"sheet_id": sheet_named(address, words)["id"]})


def post(address: str, path: str, body: dict[str, Any], method: str = "POST") -> dict[str, Any]:
    kind = {"Content-Type": "application/json", "X-Mild-Husk": "test"}
    request = urllib.request.Request(
        f"{address}api/v1{path}", json.dumps(body).encode(), kind, method=method
    )
    with urllib.request.urlopen(request, timeout=20) as answer:
        return dict(json.load(answer))

"""The built front end: as the build compressed it, and with what its page will ask for."""

import gzip
import json
import re
from base64 import b64decode
from uuid import uuid4

import pytest
from flask import Response
from flask.testing import FlaskClient
from sqlalchemy import Engine

from api.conftest import API, Clock, QueueInThisThread
from mildhusk.api.app import create_app
from mildhusk.store.database import open_sessions

SCRIPT = b"export const rim = 1;\n"
KEY = "0a6f6a3e-3f5c-4f5e-9b9e-2f1f2a7c9d10"
PAGE = '<title>Mild Husk</title><meta property="csp-nonce" nonce="__NONCE__" />'
ADDRESSES = [
    {"path": "log/runs", "files": ["assets/runs-1.js"], "asks": []},
    {"path": "log/:id", "files": ["assets/page-1.js"], "asks": ["pours/:id", "lots?limit=5&at=0"]},
]


@pytest.fixture
def site(engine: Engine, workshop_id, tmp_path) -> FlaskClient:
    (tmp_path / "assets").mkdir()
    (tmp_path / "index.html").write_text(PAGE)
    (tmp_path / "assets/page-1.js").write_bytes(SCRIPT)
    # No brotli in the standard library: what stands here is not read, only sent.
    (tmp_path / "assets/page-1.js.br").write_bytes(b"by brotli")
    (tmp_path / "assets/page-1.js.gz").write_bytes(gzip.compress(SCRIPT, mtime=0))
    (tmp_path / "assets/mark.svg").write_text("<svg/>")
    (tmp_path / "addresses.json").write_text(json.dumps(ADDRESSES))
    sessions = open_sessions(engine)
    queue = QueueInThisThread(sessions, Clock())
    return create_app(sessions, queue, workshop_id, frontend=tmp_path).test_client()


def sent_to(site, address: str, accepted: str = "") -> tuple[Response, bytes]:
    with site.get(address, headers={"Accept-Encoding": accepted}) as sent:
        return sent, sent.data


@pytest.mark.parametrize(
    ("accepted", "encoding"),
    [
        ("gzip, deflate, br, zstd", "br"),
        ("gzip, deflate", "gzip"),
        # RFC 9110, 12.5.3: a quality of 0 is a refusal.
        ("br;q=0, gzip", "gzip"),
        ("identity", None),
        ("", None),
    ],
)
def test_a_script_comes_as_the_browser_reads_it(site, accepted, encoding):
    sent, content = sent_to(site, "/assets/page-1.js", accepted)
    assert sent.content_encoding == encoding
    assert sent.mimetype == "text/javascript"
    assert "Accept-Encoding" in sent.vary
    assert sent.cache_control.max_age == 31_536_000
    made = {"br": b"by brotli", "gzip": gzip.compress(SCRIPT, mtime=0), None: SCRIPT}
    assert content == made[encoding]


def test_what_was_not_compressed_is_sent_as_it_is(site):
    sent, content = sent_to(site, "/assets/mark.svg", "br")
    assert (sent.content_encoding, content) == (None, b"<svg/>")


def test_any_other_address_is_the_page_and_is_asked_for_again(site):
    sent, content = sent_to(site, "/log/runs")
    assert b"<title>Mild Husk</title>" in content
    assert sent.cache_control.no_cache
    assert site.get("/api/nothing").status_code == 404


@pytest.mark.parametrize(
    ("address", "links"),
    [
        # RFC 8288, 3: one header field a link, its target between angle brackets.
        (f"/log/{KEY}", ["</assets/page-1.js>; rel=modulepreload; crossorigin",
                      f"</api/v1/pours/{KEY}>; rel=preload; as=fetch; crossorigin",
                      "</api/v1/lots?limit=5&at=0>; rel=preload; as=fetch; crossorigin"]),
        # Where nothing is kept yet, there is nothing to ask for.
        ("/log/new", ["</assets/page-1.js>; rel=modulepreload; crossorigin"]),
        # The first that fits: a page of its own before one that has an id.
        ("/log/runs", ["</assets/runs-1.js>; rel=modulepreload; crossorigin"]),
        ("/log/a7/b", []),
        ("/log/%0d%0aSet-Cookie:x", []),
        ("/log/a>b", []),
    ],
)  # fmt: skip
def test_a_page_comes_with_what_it_will_ask_for(site, address, links):
    sent, _ = sent_to(site, address)
    assert sent.headers.getlist("Link") == links


def test_a_front_end_without_a_plan_of_addresses_is_served_all_the_same(site, tmp_path, engine):
    (tmp_path / "addresses.json").unlink()
    sessions = open_sessions(engine)
    queue = QueueInThisThread(sessions, Clock())
    bare = create_app(sessions, queue, uuid4(), frontend=tmp_path).test_client()
    sent, content = sent_to(bare, "/log/runs")
    assert sent.headers.getlist("Link") == []
    assert b"<title>Mild Husk</title>" in content


@pytest.mark.parametrize("address", ["/", "/log/runs", "/index.html", "/nowhere"])
def test_styles_may_be_written_by_what_bears_the_number_of_the_answer_alone(site, address):
    # Content Security Policy Level 3, 2.3.1: a nonce is at least 128 bits, and new every time.
    numbers = set()
    for _ in range(3):
        sent, page = sent_to(site, address)
        [number] = re.findall(r'nonce="([^"]+)"', page.decode())
        [styles] = re.findall(r"style-src ([^;]+);", sent.headers["Content-Security-Policy"])
        assert styles == f"'self' 'nonce-{number}'"
        assert len(b64decode(number + "==", "-_")) * 8 >= 128
        # A page that is kept and only asked about would bear a number that is not let in.
        assert sent.headers.get("ETag") is None
        assert sent.last_modified is None
        numbers.add(number)
    assert len(numbers) == 3


def test_no_answer_lets_in_what_is_written_into_it(site):
    for address in ("/", "/assets/page-1.js", "/assets/mark.svg", f"{API}/workshop", f"{API}/no"):
        sent, _ = sent_to(site, address)
        policy = sent.headers["Content-Security-Policy"]
        assert "unsafe" not in policy
        assert "object-src 'none'" in policy
        assert "base-uri 'none'" in policy
        assert ("nonce" in policy) == (address == "/")

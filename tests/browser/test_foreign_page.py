"""A page of somebody else, open in the same browser, changes nothing here."""

import threading
from collections.abc import Iterator
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer

import pytest

from browser.lookup import fetch
from browser.views import VIEWS

pytestmark = pytest.mark.browser

TRIES = """
const done = arguments[1], address = arguments[0] + 'api/v1/';
const form = new FormData();
form.append('file', new Blob(['solid x']), 'x.stl');
const body = JSON.stringify({name: 'Foreign', volume_m3: 0.001, thickness_m: 0.01});
const tries = [
  ['pieces/clay', {method: 'POST', body, headers: {'Content-Type': 'text/plain'}}],
  ['pieces/clay', {method: 'POST', body, headers: {'Content-Type': 'application/json'}}],
  ['pieces/clay', {method: 'POST', body, headers: {'X-Mild-Husk': 'page'}}],
  ['pieces/clay', {method: 'POST', body, mode: 'no-cors'}],
  ['mesh-files', {method: 'POST', body: form}],
  ['mesh-files', {method: 'POST', body: form, mode: 'no-cors'}],
  ['pours/00000000-0000-4000-8000-000000000000/steps/last', {method: 'DELETE'}],
  ['shelf', {method: 'POST', body: new URLSearchParams({file: 'x'}), mode: 'no-cors'}],
];
Promise.all(tries.map(([path, how]) =>
  fetch(address + path, how).then(r => r.type + ' ' + r.status, e => 'refused')
)).then(done);
"""


class _Page(BaseHTTPRequestHandler):
    def do_GET(self) -> None:
        self.send_response(200)
        self.send_header("Content-Type", "text/html")
        self.end_headers()
        self.wfile.write(b"<!doctype html><title>Elsewhere</title><p>Elsewhere</p>")

    def log_message(self, *_words: object) -> None:
        """Say nothing."""


@pytest.fixture
def elsewhere() -> Iterator[str]:
    # A browser keeps spare connections open on which it says nothing.
    server = ThreadingHTTPServer(("127.0.0.1", 0), _Page)
    server.daemon_threads = True
    threading.Thread(target=server.serve_forever, daemon=True).start()
    yield f"http://127.0.0.1:{server.server_port}/"
    server.shutdown()
    server.server_close()


def _there(address):
    """What there is, and of which version; a worker may still draw a picture of it."""
    rows = fetch(address, "/pieces")["pieces"] + fetch(address, "/materials")["materials"]
    return [(one["id"], one["name"], one.get("version")) for one in rows]


def test_a_page_elsewhere_neither_changes_nor_reads_anything(person, address, elsewhere):
    before = _there(address)
    person.driver.get(elsewhere)
    came = person.driver.execute_async_script(TRIES, address)
    # No answer was let through to the page; of what is sent without asking, none was done.
    assert set(came) <= {"refused", "opaque 0"}, came
    assert "opaque 0" in came
    read = person.driver.execute_async_script(
        "fetch(arguments[0] + 'api/v1/pieces').then(r => r.text(), () => 'refused')"
        ".then(arguments[1])",
        address,
    )
    assert read == "refused"
    assert _there(address) == before
    # A form that is sent as a whole page is refused, too.
    person.driver.execute_script(
        "const f = document.createElement('form'); f.method = 'post'; f.action = arguments[0];"
        "f.enctype = 'text/plain'; document.body.append(f); f.submit();",
        f"{address}api/v1/pieces/clay",
    )
    person.sees("has to come from a page of this workshop")
    assert _there(address) == before


def test_what_is_written_into_a_page_neither_runs_nor_styles_it(person):
    person.go("/log")
    person.sees("Harbour mistress")
    assert person.console_errors() == []
    person.driver.execute_script(
        "document.body.insertAdjacentHTML('beforeend', arguments[0])",
        "<style>h1 { display: none }</style><p id=written style='display: none'>Written</p>"
        "<img src='data:,' onerror='window.ran = 1' alt=''>",
    )
    assert person.one("h1").is_displayed()
    assert person.one("#written").is_displayed()
    assert person.driver.execute_script("return window.ran") is None
    refused = person.until(person.console_errors, "the browser says what it refused")
    assert all("Content Security Policy" in one for one in refused), refused


def test_what_our_own_scripts_write_as_styles_is_let_in(person, address):
    VIEWS["how it cures"].open(person, address)
    # A style that is refused is in the page, and has no rules.
    rules = person.driver.execute_script(
        "return [...document.querySelectorAll('style')].filter((one) => one.textContent)"
        ".map((one) => one.sheet ? one.sheet.cssRules.length : -1)"
    )
    assert len(rules) > 5
    assert min(rules) > 0
    assert person.console_errors() == []

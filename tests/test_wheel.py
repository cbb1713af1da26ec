"""What pip installs has all that it needs: the front end too, and no Node to build it."""

import os
import re
import subprocess
import sys
import urllib.request
import zipfile
from pathlib import Path

import pytest

from served import ROOT
from test_launch import open_folder


@pytest.fixture(scope="module")
def installed(tmp_path_factory) -> Path:
    into = tmp_path_factory.mktemp("wheel")
    subprocess.run([ROOT / "scripts/wheel.sh", into], check=True, capture_output=True)
    [wheel] = into.glob("*.whl")
    with zipfile.ZipFile(wheel) as file:
        file.extractall(into / "site")
    return into / "site"


def test_the_wheel_says_what_it_was_tested_with(installed):
    [told] = installed.glob("mildhusk-*.dist-info/METADATA")
    needs = re.findall(r"^Requires-Dist: (.*)$", told.read_text("utf-8"), re.MULTILINE)
    locked = (ROOT / "requirements/run.txt").read_text("utf-8")
    assert len(needs) == len(re.findall(r"^\S+==", locked, re.MULTILINE)) > 20
    assert all(f"\n{one} " in f"\n{locked}" for one in needs)
    [entries] = installed.glob("mildhusk-*.dist-info/entry_points.txt")
    assert "husk-web = mildhusk.web:main" in entries.read_text("utf-8")
    # Nothing of the developer's: no tests, no compiled files.
    assert not [one for one in installed.rglob("*") if one.suffix in (".pyc", ".nbi", ".nbc")]


def test_one_command_starts_it_where_there_is_no_node_and_no_checkout(installed):
    with open_folder() as folder:
        environment = {"PATH": "/usr/sbin:/usr/bin:/sbin:/bin", "PYTHONPATH": str(installed)}
        with subprocess.Popen(
            [sys.executable, "-m", "mildhusk.web", "start", "--demo", "--port", "0",
             "--data", str(folder / "data")],
            env={**environment, "NUMBA_CACHE_DIR": os.fspath(folder / "compiled")},
            stdout=subprocess.PIPE, text=True, cwd=folder,
        ) as process:  # fmt: skip
            assert process.stdout is not None
            try:
                address = process.stdout.readline().split(" at ")[1].strip()
                with urllib.request.urlopen(f"{address}today", timeout=20) as page:
                    early = page.headers.get_all("Link")
                    scripts = re.findall(r'(?:src|href)="/(assets/[^"]+)"', page.read().decode())
                named = re.findall(r"<(/[^>]+)>", " ".join(early))
                assert len(scripts) >= 3
                assert len(named) >= 3
                for path in (*scripts, *(one.lstrip("/") for one in named)):
                    with urllib.request.urlopen(address + path, timeout=20) as sent:
                        assert sent.status == 200
                with urllib.request.urlopen(f"{address}api/v1/pieces", timeout=20) as sent:
                    assert b"Lamplighter helmet" in sent.read()
            finally:
                process.terminate()
                assert process.wait(timeout=60) == 0

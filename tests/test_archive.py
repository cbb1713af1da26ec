"""The whole workshop out as one file and in again: on a database of its own, as it is used."""

import hashlib
import io
import json
import os
import subprocess
import sys
import zipfile
from contextlib import contextmanager
from datetime import UTC, date, datetime, timedelta
from pathlib import Path
from typing import NamedTuple

import numpy as np
import pytest
import trimesh
from sqlalchemy import func, select, update

from mildhusk.api.app import create_app
from mildhusk.backup import back_up_where_due
from mildhusk.core.patterns.flat import PatternKind
from mildhusk.core.patterns.request import PatternRequest
from mildhusk.core.patterns.sheets import SheetSize
from mildhusk.demo.scenario import fill
from mildhusk.documents.archive_files import ArchiveError
from mildhusk.jobs.queue import PostgresQueue
from mildhusk.services.archive import (
    TakenRows,
    part_of_mould,
    part_of_piece,
    part_of_sheet,
    take_in_archive,
    write_archive,
)
from mildhusk.services.files import content_of
from mildhusk.services.patterns import (
    keep_of_mould,
    keep_of_piece,
    kept_of_mould,
    kept_of_piece,
)
from mildhusk.services.sheets import plan_of
from mildhusk.services.transaction import Transaction
from mildhusk.services.workshop import found_workshop, is_backup_overdue
from mildhusk.store.base import Base
from mildhusk.store.database import migrate, open_engine, open_sessions
from mildhusk.store.tables import (
    CastSheetRow,
    LotRow,
    Material,
    MeshChunk,
    MouldRow,
    Piece,
    Pour,
    Workshop,
)
from served import fresh_database

NOW = datetime(2026, 11, 30, 9, 0, tzinfo=UTC)
KEPT = Path(__file__).parent / "archives"
SKIRT = PatternRequest(PatternKind.SKIRT, {"height_m": 0.08}, SheetSize(1.2, 0.8))


class Place(NamedTuple):
    """A workshop in a database of its own."""

    url: str
    sessions: object
    workshop_id: object

    @contextmanager
    def at(self):
        with self.sessions.begin() as session:
            yield Transaction(session, self.workshop_id, NOW)

    def take(self, path, **how):
        with self.at() as at:
            return take_in_archive(at, path, **how)

    def counts(self):
        with self.sessions.begin() as session:
            return {
                one.name: session.scalar(select(func.count()).select_from(one))
                for one in Base.metadata.sorted_tables
            }


@contextmanager
def place(cluster, *, demo=False):
    with fresh_database(cluster) as url:
        engine = open_engine(url)
        migrate(engine)
        sessions = open_sessions(engine)
        if demo:
            fill(sessions, NOW)
        with sessions.begin() as session:
            workshop_id = found_workshop(session, NOW)
        yield Place(url, sessions, workshop_id)
        engine.dispose()


@pytest.fixture(scope="module")
def home(cluster):
    with place(cluster, demo=True) as made:
        yield made


@pytest.fixture
def elsewhere(cluster):
    with place(cluster) as made:
        yield made


@pytest.fixture(scope="module")
def archive(home, tmp_path_factory):
    path = tmp_path_factory.mktemp("archive") / "workshop.zip"
    with home.at() as at:
        write_archive(at, path)
    return path


def contents(path):
    with zipfile.ZipFile(path) as file:
        return {name: file.read(name) for name in file.namelist()}


def rewritten(path, into, change, *, honest=True):
    """An archive in which something was changed; an honest one has the checksums of it."""
    parts = contents(path)
    manifest = json.loads(parts["manifest.json"])
    change(parts, manifest)
    if honest:
        for name, told in manifest["tables"].items():
            written = parts.get(f"tables/{name}.jsonl", b"")
            told["bytes"], told["rows"] = len(written), written.count(b"\n")
            told["sha256"] = hashlib.sha256(written).hexdigest()
    parts["manifest.json"] = json.dumps(manifest).encode()
    with zipfile.ZipFile(into, "w", zipfile.ZIP_DEFLATED) as file:
        for name, written in parts.items():
            file.writestr(name, written)
    return into


def test_it_is_read_by_whoever_reads_zip_and_json(archive, home):
    """By the standard library and a reader of meshes alone, as the document describes it."""
    parts = contents(archive)
    manifest = json.loads(parts["manifest.json"])
    assert (manifest["format"], manifest["version"]) == ("mild-husk-archive", 1)
    pieces = [json.loads(line) for line in parts["tables/piece.jsonl"].splitlines()]
    assert {one["name"] for one in pieces} >= {"Lamplighter helmet", "Marsh bird half mask"}
    files = [json.loads(line) for line in parts["tables/mesh_file.jsonl"].splitlines()]
    assert len(files) == 4
    for file in files:
        content = parts[f"files/{file['sha256']}.stl"]
        assert hashlib.sha256(content).hexdigest() == file["sha256"]
        assert len(trimesh.load(io.BytesIO(content), file_type="stl").faces) == file["faces"]
    for name, told in manifest["tables"].items():
        assert hashlib.sha256(parts[f"tables/{name}.jsonl"]).hexdigest() == told["sha256"]
    # What belongs to this machine, and secrets, stay here.
    assert not {"device", "job", "drawing"} & manifest["tables"].keys()
    assert "calendar_secret" not in manifest["workshop"]


def told(plan):
    """What a maker weighs and waits for, to the last digit."""
    return repr((plan.resin_kg, plan.coats, plan.out_after_s, plan.estimate, plan.findings))


def test_what_goes_out_comes_in_elsewhere_and_goes_out_the_same(home, elsewhere, archive, tmp_path):
    taken = elsewhere.take(archive)
    assert taken.replaces
    assert all(one.new == one.rows for one in taken.tables)
    again = tmp_path / "again.zip"
    with elsewhere.at() as at:
        write_archive(at, again)
    here, there = contents(archive), contents(again)
    assert here.keys() == there.keys()
    keys = (str(home.workshop_id).encode(), str(elsewhere.workshop_id).encode())
    for name in here.keys() - {"manifest.json"}:
        assert here[name].replace(*keys) == there[name], name
    plans = []
    for one in (home, elsewhere):
        with one.at() as at:
            rows = at.session.scalars(select(CastSheetRow).order_by(CastSheetRow.id)).all()
            plans.append([told(plan_of(at, row)) for row in rows])
    assert len(plans[0]) == 9
    assert plans[0] == plans[1]


def test_a_try_says_what_comes_and_leaves_nothing(elsewhere, archive):
    before = elsewhere.counts()
    tried = elsewhere.take(archive, try_only=True)
    assert elsewhere.counts() == before
    with elsewhere.at() as at:
        assert at.session.scalars(select(Workshop.name)).one() == "Workshop"
    assert elsewhere.take(archive) == tried


def test_what_is_here_already_stays_as_it_is(elsewhere, archive):
    elsewhere.take(archive)
    with elsewhere.at() as at:
        at.session.execute(update(Piece).values(name="Called otherwise since"))
        at.session.execute(update(Workshop).values(name="Another sign over the door"))
        poured = at.session.scalars(select(Pour.id).limit(1)).one()
        before = elsewhere.counts()
    taken = elsewhere.take(archive)
    assert not taken.replaces
    assert all(one.new == 0 for one in taken.tables)
    assert elsewhere.counts() == before
    with elsewhere.at() as at:
        assert set(at.session.scalars(select(Piece.name))) == {"Called otherwise since"}
        assert at.session.scalars(select(Workshop.name)).one() == "Another sign over the door"
        assert at.session.get(Pour, poured) is not None


def test_a_workshop_with_a_shelf_of_its_own_has_no_material_twice(elsewhere, archive):
    """What comes in stands on the same material here, found by its key."""
    with elsewhere.at() as at:
        fast = at.session.scalars(select(Material).where(Material.kind == "casting-resin")).first()
        at.session.add(
            LotRow(workshop_id=at.workshop_id, created_at=NOW, material_id=fast.id, label="Ours",
                   bought_g=900, left_g=900, expires_on=date(2027, 5, 1))
        )  # fmt: skip
        known = set(at.session.scalars(select(Material.id)))
    taken = elsewhere.take(archive)
    assert not taken.replaces
    with elsewhere.at() as at:
        keys = at.session.scalars(select(Material.key)).all()
        assert len(keys) == len(set(keys))
        assert set(at.session.scalars(select(CastSheetRow.material_id))) <= known
        assert at.session.scalar(select(func.count()).select_from(Pour)) == 16


@pytest.mark.parametrize(
    ("part_of", "row", "keep", "also"),
    [
        (part_of_piece, Piece, keep_of_piece, {"kept_pattern": 1}),
        (part_of_sheet, CastSheetRow, None, {"cast_sheet": 1, "material": 1}),
        (part_of_mould, MouldRow, keep_of_mould, {"mould": 1, "material": 2, "kept_pattern": 1}),
    ],
)
def test_a_part_goes_to_another_workshop_with_what_it_stands_on(
    home, elsewhere, tmp_path, part_of, row, keep, also
):
    path = tmp_path / "part.zip"
    with home.at() as at:
        key = at.session.scalars(select(row.id).order_by(row.id)).first()
        if keep is not None:
            keep(at, key, SKIRT)
        write_archive(at, path, part_of(at, key))
    with elsewhere.at() as at:
        # A workshop with nothing in it keeps its own name and shelf all the same.
        at.session.execute(update(Workshop).values(name="Down the road"))
        shelf = set(at.session.scalars(select(Material.id)))
    taken = elsewhere.take(path)
    assert not taken.replaces
    rows = {one.table: one.rows for one in taken.tables if one.rows}
    more = {name: rows.pop(name, 0) for name in ("kit_offer", "mould_event")}
    assert rows == {"piece": 1, "mesh_file": 1, **also}
    with elsewhere.at() as at:
        assert at.session.scalars(select(Workshop.name)).one() == "Down the road"
        assert set(at.session.scalars(select(Material.id))) == shelf
        assert at.session.scalars(select(row.id)).one() == key
        told = {kept_of_piece: Piece, kept_of_mould: MouldRow}
        assert [one for tell, of in told.items() if of is row for one in tell(at, key)] == (
            [SKIRT] if keep else []
        )
        [piece] = at.session.scalars(select(Piece)).all()
        assert content_of(at, piece.mesh_sha256)[:80]
    assert more["mould_event"] == 0
    assert elsewhere.take(path).tables == tuple(
        TakenRows(one.table, one.rows, 0) for one in taken.tables
    )


def _without(name):
    def change(parts, manifest):
        del parts[name(parts)]

    return change


def _set(table, column, value):
    def change(parts, manifest):
        name = f"tables/{table}.jsonl"
        first, *rest = parts[name].splitlines(keepends=True)
        parts[name] = json.dumps({**json.loads(first), column: value}).encode() + b"\n"
        parts[name] += b"".join(rest)

    return change


def _nested(depth):
    value = "deep"
    for _ in range(depth):
        value = [value]
    return value


def _first_mesh(parts):
    return next(name for name in parts if name.endswith(".stl"))


def _add(name, content):
    return lambda parts, manifest: parts.update({name: content})


def _of_version(number):
    return lambda parts, manifest: manifest.update(version=number)


def _another_mesh(parts, manifest):
    name = _first_mesh(parts)
    parts[name] = parts[name][:-1] + bytes([parts[name][-1] ^ 1])


def _table_of_another(parts, manifest):
    manifest["tables"]["pg_user"] = dict(manifest["tables"]["lot"])
    parts["tables/pg_user.jsonl"] = parts["tables/lot.jsonl"]


@pytest.mark.parametrize(
    ("change", "said"),
    [
        (_without(_first_mesh), "does not hold what its manifest says"),
        (_without(lambda _: "tables/pour.jsonl"), "does not hold what its manifest says"),
        (_add("../../etc/crontab", b"x"), "does not hold what its manifest says"),
        (_another_mesh, "damaged at files/"),
        (_of_version(2), "reads up to 1; update"),
        (_of_version("1"), "no archive of a workshop"),
        (_table_of_another, "knows no table 'pg_user'"),
        (_set("pour", "owner", "me"), "look at 'owner'"),
        (_set("piece", "id", "1; DROP TABLE piece"), "does not go together"),
        (_set("lot", "left_g", "much"), "does not go together"),
        (_set("lot", "label", "a\u0000b"), "does not go together"),
        (_set("lot", "material_id", "00000000-0000-4000-8000-000000000000"), "not go together"),
        (_set("cast_sheet", "wish", {"wall_m": "thick"}), "wish is not as it was"),
        (_set("pour", "plan", [1]), "plan is not as it was"),
        (_set("pour", "plan", {"version": float("inf")}), "plan is not as it was"),
        (_set("material", "key", {}), "not go together"),
        (_set("material", "key", "\ud800"), "not go together"),
        (_set("kit_offer", "material_id", []), "not go together"),
        (_set("lot", "label", _nested(400)), "not go together"),
        (_add("tables/lot.jsonl", b"[" * 100_000 + b"\n"), "no JSON"),
        (_add("tables/lot.jsonl", b"17\n"), "is no row"),
        (_add("tables/lot.jsonl", b'{"id": 1}'), "damaged at tables/lot.jsonl"),
    ],
)
def test_what_is_not_whole_or_not_ours_is_refused_and_leaves_nothing(
    elsewhere, archive, tmp_path, change, said
):
    odd = rewritten(archive, tmp_path / "odd.zip", change)
    before = elsewhere.counts()
    with pytest.raises(ArchiveError, match=said):
        elsewhere.take(odd)
    assert elsewhere.counts() == before


def test_a_small_file_that_unpacks_without_end_is_refused_before_it_is_unpacked(
    elsewhere, archive, tmp_path
):
    def change(parts, manifest):
        for name in list(parts):
            if name.startswith("files/"):
                del parts[name], manifest["files"][name]
        parts["tables/lot.jsonl"] = b"{}\n" * 40_000_000

    with pytest.raises(ArchiveError, match="packed more tightly"):
        elsewhere.take(rewritten(archive, tmp_path / "trap.zip", change))


def test_a_changed_gram_is_found_by_the_checksum(elsewhere, archive, tmp_path):
    def change(parts, manifest):
        name = "tables/lot.jsonl"
        parts[name] = parts[name].replace(b'"label": "Fast', b'"label": "fast', 1)

    odd = rewritten(archive, tmp_path / "odd.zip", change, honest=False)
    with pytest.raises(ArchiveError, match=r"damaged at tables/lot\.jsonl"):
        elsewhere.take(odd)
    assert elsewhere.counts()["lot"] == 0


@pytest.mark.parametrize("share", [0.0, 0.3, 0.9, 0.999])
def test_the_beginning_of_an_archive_is_none(elsewhere, archive, tmp_path, share):
    cut = tmp_path / "cut.zip"
    written = archive.read_bytes()
    cut.write_bytes(written[: int(share * len(written))])
    with pytest.raises(ArchiveError, match="only the beginning of one"):
        elsewhere.take(cut)


@pytest.mark.parametrize("path", sorted(KEPT.glob("*.zip")), ids=lambda one: one.stem)
def test_archives_of_every_release_are_read(elsewhere, path):
    """Each was written by the release that it is named after, and is never written again."""
    taken = elsewhere.take(path)
    assert taken.replaces
    new = {one.table: one.new for one in taken.tables}
    assert (new["piece"], new["cast_sheet"], new["lot"], new["pour"]) == (1, 1, 1, 1)
    with elsewhere.at() as at:
        [row] = at.session.scalars(select(CastSheetRow)).all()
        assert plan_of(at, row).total_charge_kg > 0.0
        # A half sphere of 100 mm, in facets.
        measures = at.session.scalars(select(Piece.measures)).one()
        assert measures["area_m2"] == pytest.approx(2.0 * np.pi * 0.1**2, rel=0.02)
        [mesh] = at.session.scalars(select(MeshChunk)).all()
        assert hashlib.sha256(mesh.content).hexdigest() == mesh.sha256


def husk_web(*words, url=None, **more):
    environment = {"PATH": os.environ["PATH"], **({"DATABASE_URL": url} if url else {}), **more}
    command = [sys.executable, "-m", "mildhusk.web", *map(str, words)]
    return subprocess.run(command, env=environment, capture_output=True, text=True, check=False)


def test_a_backup_is_written_verified_restored_and_old_ones_go(home, elsewhere, tmp_path):
    folder = tmp_path / "disk"
    folder.mkdir()
    for day in (1, 2, 3):
        (folder / f"workshop-2026-01-0{day}-120000.zip").write_bytes(b"old")
    (folder / "letter.zip").write_bytes(b"not ours")
    done = husk_web("backup", folder, "--keep", "2", url=home.url)
    assert done.returncode == 0, done.stderr
    assert "written and read back" in done.stdout
    kept = sorted(one.name for one in folder.iterdir())
    assert kept[:2] == ["letter.zip", "workshop-2026-01-03-120000.zip"]
    assert len(kept) == 3
    path = folder / kept[2]
    verified = husk_web("verify", path)
    assert verified.returncode == 0, verified.stderr
    assert "pour: 16 imported" in verified.stdout
    restored = husk_web("restore", path, url=elsewhere.url)
    assert restored.returncode == 0, restored.stderr
    shares = [int(line.split(" % read")[0]) for line in restored.stderr.splitlines()]
    assert len(shares) >= 5
    assert shares == sorted(set(shares))
    assert shares[-1] == 100
    assert elsewhere.counts()["wall_reading"] == home.counts()["wall_reading"] > 0


@pytest.mark.parametrize("stopped_at", [0.02, 0.5, 0.999])
def test_an_import_that_is_stopped_leaves_nothing(archive, elsewhere, stopped_at):
    before = elsewhere.counts()

    def stop(share, _words):
        if share >= stopped_at:
            raise KeyboardInterrupt

    with pytest.raises(KeyboardInterrupt), elsewhere.at() as at:
        take_in_archive(at, archive, tell=stop)
    assert elsewhere.counts() == before


def test_an_encrypted_backup_is_opened_by_its_key_alone(home, elsewhere, tmp_path):
    folder, key = tmp_path / "disk", tmp_path / "key.txt"
    public = husk_web("key", key).stdout.split()[-1]
    done = husk_web("backup", folder, url=home.url, MILDHUSK_BACKUP_KEY=public)
    assert done.returncode == 0, done.stderr
    [path] = folder.iterdir()
    assert path.name.endswith(".zip.age")
    assert not zipfile.is_zipfile(path)
    without = husk_web("restore", path, url=elsewhere.url)
    assert (without.returncode, without.stderr.count("\n")) == (1, 1)
    assert "--key" in without.stderr
    verified = husk_web("verify", path, "--key", key)
    assert "pour: 16 imported" in verified.stdout, verified.stderr
    restored = husk_web("restore", path, "--key", key, url=elsewhere.url)
    assert restored.returncode == 0, restored.stderr
    assert elsewhere.counts()["wall_reading"] == home.counts()["wall_reading"] > 0
    wrong = husk_web("backup", folder, url=home.url, MILDHUSK_BACKUP_KEY="age1xyz")
    assert (wrong.returncode, wrong.stderr.count("\n")) == (1, 1)
    assert "no public key" in wrong.stderr
    assert list(folder.iterdir()) == [path]


def test_what_cannot_be_restored_is_said_in_one_line(tmp_path, elsewhere):
    odd = tmp_path / "odd.zip"
    odd.write_text("no archive")
    done = husk_web("restore", odd, url=elsewhere.url)
    assert done.returncode == 1
    assert done.stderr.count("\n") == 1
    assert "This is no archive" in done.stderr
    away = husk_web("backup", tmp_path, url="postgresql://nobody@127.0.0.1:1/none")
    assert away.returncode == 1
    assert away.stderr.count("\n") == 1
    assert not [one for one in tmp_path.iterdir() if one != odd]


def test_a_backup_is_made_once_a_day_and_the_workshop_knows_how_it_went(elsewhere, tmp_path):
    def known():
        with elsewhere.at() as at:
            row = at.session.scalars(select(Workshop)).one()
            return row.backed_up_at, row.backup_said

    folder = tmp_path / "disk"
    assert known() == (None, "")
    with elsewhere.at() as at:
        # Nobody is warned of what was never begun.
        assert not is_backup_overdue(at.session.scalars(select(Workshop)).one(), NOW)
    assert back_up_where_due(elsewhere.url, folder, NOW)
    assert known() == (NOW, "")
    assert not back_up_where_due(elsewhere.url, folder, NOW + timedelta(hours=23))
    with elsewhere.at() as at:
        row = at.session.scalars(select(Workshop)).one()
        assert not is_backup_overdue(row, NOW + timedelta(days=3))
        assert is_backup_overdue(row, NOW + timedelta(days=3, minutes=1))
    # The disk is taken away: a file stands where the folder was.
    folder.rename(tmp_path / "away")
    folder.write_text("no folder")
    late = NOW + timedelta(hours=25)
    assert back_up_where_due(elsewhere.url, folder, late)
    last, said = known()
    assert last == NOW
    assert str(folder) in said
    # It is tried again until it is good, and then nothing is said any more.
    folder.unlink()
    assert back_up_where_due(elsewhere.url, folder, late)
    assert known() == (late, "")
    [made] = folder.iterdir()
    assert zipfile.is_zipfile(made)


def test_over_the_network_it_goes_out_and_says_what_it_brings(home, elsewhere):
    def client_of(one):
        app = create_app(one.sessions, PostgresQueue(one.url), one.workshop_id)
        return app.test_client()

    with client_of(home).get("/api/v1/archive.zip") as sent:
        assert sent.mimetype == "application/zip"
        assert sent.headers["Content-Disposition"].startswith("attachment; filename=workshop-")
        content = sent.data
    there = client_of(elsewhere)
    headers = {"X-Mild-Husk": "test"}
    for path, pieces in (("/api/v1/archive/tries", 0), ("/api/v1/archive", 4)):
        form = {"file": (io.BytesIO(content), "workshop.zip")}
        answer = there.post(path, data=form, headers=headers)
        # The client's own copy of a large form.
        answer.request.environ["wsgi.input"].close()
        assert answer.status_code == 200
        assert answer.json["replaces"] is True
        assert {"table": "piece", "rows": 4, "new": 4} in answer.json["tables"]
        assert elsewhere.counts()["piece"] == pieces
    form = {"file": (io.BytesIO(content[:5000]), "workshop.zip")}
    refused = there.post("/api/v1/archive", data=form, headers=headers)
    assert refused.status_code == 422
    assert refused.json["errors"][0]["field"] == "file"

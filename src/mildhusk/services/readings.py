"""Readings of the wall of a cast: touched on the piece, kept, set beside what was simulated."""

import csv
import io
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import timedelta
from uuid import UUID

import numpy as np
from scipy.spatial import cKDTree
from sqlalchemy import select

from mildhusk.core.errors import InputError
from mildhusk.core.geometry.mesh import Floats, Mesh, face_frames
from mildhusk.core.learning.readings import ReadBy, WallReading, read_ratio
from mildhusk.documents.wall_files import WallModel, unpack_wall
from mildhusk.services.errors import ConflictError
from mildhusk.services.learning import learn_soon, unlearn
from mildhusk.services.pieces import find_piece, model_of_piece
from mildhusk.services.rows import Row, read_rows
from mildhusk.services.sheets import SHAPED
from mildhusk.services.transaction import Transaction
from mildhusk.store.tables import NAME_LENGTH, CoatRunRow, Pour, PourStatus, WallReadingRow

MOST_READINGS = 400
"""Of one cast."""
_OFF_M, _NAMED_ON_M = 0.006, 0.012
"""A place further off the casting face than this is none of it; names are told on faces so large.
[m]"""
_COLUMNS = ("by", "wall_mm", "light", "x_mm", "y_mm", "z_mm", "place")


@dataclass(frozen=True, slots=True)
class NewReading:
    """A reading, and where it was taken: on the piece [m], or in words."""

    read: WallReading
    at_m: tuple[float, float, float] | None = None
    place: str = ""


def list_readings(transaction: Transaction, pour_id: UUID) -> Sequence[WallReadingRow]:
    """Return the readings of a cast in the order they were taken."""
    transaction.find(Pour, pour_id, "pour")
    return transaction.session.scalars(
        select(WallReadingRow)
        .where(WallReadingRow.pour_id == pour_id)
        .order_by(WallReadingRow.created_at, WallReadingRow.id)
    ).all()


def add_readings(transaction: Transaction, pour_id: UUID, new: Sequence[NewReading]) -> None:
    """Keep readings of a cast, all of them or none.

    Raises
    ------
    ConflictError
        No cast came of the pour yet, or it has too many readings.
    InputError
        A place that is not on the piece.
    """
    pour = transaction.find(Pour, pour_id, "pour", lock=True)
    if pour.status != PourStatus.CAST:
        raise ConflictError("No cast came of this pour yet; close it with its weight, then read.")
    known = transaction.count(WallReadingRow, WallReadingRow.pour_id == pour_id)
    if known + len(new) > MOST_READINGS:
        raise ConflictError(f"A cast keeps up to {MOST_READINGS} readings; take some off first.")
    on_piece = [one for one in new if one.at_m is not None]
    places = iter(_places(transaction, pour, [one.at_m or (0.0,) * 3 for one in on_piece]))
    for number, one in enumerate(new):
        # In the order they came, also those of one moment.
        taken_at = transaction.now + timedelta(microseconds=number)
        at_m, place = (None, one.place) if one.at_m is None else next(places)
        if not (one.place or place):
            raise InputError("Say where it was read.", "place")
        x_m, y_m, z_m = (None, None, None) if at_m is None else at_m
        transaction.session.add(
            WallReadingRow(
                workshop_id=transaction.workshop_id, created_at=taken_at, pour_id=pour_id,
                by=one.read.by, wall_m=one.read.wall_m, light=one.read.light,
                x_m=x_m, y_m=y_m, z_m=z_m, simulated_m=None, simulated_kg=None,
                place=(one.place or place)[:NAME_LENGTH],
            )
        )  # fmt: skip
    _other_readings(transaction, pour)
    transaction.session.flush()


def remove_reading(transaction: Transaction, key: UUID) -> UUID:
    """Take a reading off; returns the pour it was of."""
    row = transaction.find(WallReadingRow, key, "reading", lock=True)
    pour = transaction.find(Pour, row.pour_id, "pour", lock=True)
    transaction.session.delete(row)
    _other_readings(transaction, pour)
    transaction.session.flush()
    return pour.id


def _other_readings(transaction: Transaction, pour: Pour) -> None:
    """Let a pour be told anew; what was fitted to other readings no longer holds."""
    pour.viscosity = None
    unlearn(pour)
    learn_soon(transaction, pour)


def readings_csv(rows: Sequence[WallReadingRow]) -> bytes:
    """Return readings as CSV, as `add_csv` takes them."""
    text = io.StringIO()
    table = csv.writer(text)
    table.writerow([*_COLUMNS, "simulated_mm"])
    for row in rows:
        lengths = [row.wall_m, row.x_m, row.y_m, row.z_m, row.simulated_m]
        wall, x, y, z, simulated = ("" if one is None else f"{1e3 * one:.3f}" for one in lengths)
        light = "" if row.light is None else ("yes" if row.light else "no")
        table.writerow([row.by, wall, light, x, y, z, row.place, simulated])
    return text.getvalue().encode("utf-8-sig")


def add_csv(transaction: Transaction, pour_id: UUID, content: bytes) -> int:
    """Keep the readings of a file, all of them or none; returns how many."""
    new = read_rows(content, "readings", ("by",), _read_row)
    add_readings(transaction, pour_id, new)
    return len(new)


def _read_row(row: Row) -> NewReading:
    by, light = _text(row, "by"), _text(row, "light").lower()
    if by not in set(ReadBy):
        raise InputError(f"'{by}' is no way to read a wall; one of {', '.join(ReadBy)}.")
    if light not in ("", "yes", "no"):
        raise InputError("Light comes through: 'yes' or 'no'.")
    wall_m, *place = (_length(row, name) for name in ("wall_mm", "x_mm", "y_mm", "z_mm"))
    given = [one for one in place if one is not None]
    if len(given) not in (0, 3):
        raise InputError("A place on the piece has x_mm, y_mm and z_mm, or none of them.")
    at_m = (given[0], given[1], given[2]) if given else None
    read = WallReading(ReadBy(by), wall_m, None if light == "" else light == "yes")
    return NewReading(read, at_m, _text(row, "place")[:NAME_LENGTH])


def _text(row: Row, name: str) -> str:
    return str(row.get(name) or "").strip()


def _length(row: Row, name: str) -> float | None:
    written = _text(row, name)
    if not written:
        return None
    try:
        value = float(written) / 1e3
    except ValueError as error:
        raise InputError(f"{name} is '{written[:20]}', which is no number.") from error
    if not np.isfinite(value):
        raise InputError(f"{name} is '{written[:20]}', which is no number.")
    return value


# --- where on the piece ---


def _places(
    transaction: Transaction, pour: Pour, at_m: Sequence[Sequence[float]]
) -> list[tuple[tuple[float, float, float], str]]:
    """Return places put on the casting face, and what each is called."""
    if not at_m:
        return []
    piece = find_piece(transaction, pour.piece_id)
    if piece.source not in SHAPED:
        raise InputError(
            f"Of '{piece.name}' only its size is known; say in words where it was read.", "place"
        )
    # Its numerics are slow to load, and only a place needs them.
    from mildhusk.core.coating.grid import coat_grid, even_mesh
    from mildhusk.core.coating.naming import names_of

    face = model_of_piece(transaction, pour.piece_id).face
    found = []
    names = names_of(coat_grid(even_mesh(face, _NAMED_ON_M)))
    for place in at_m:
        on_face, off_m = _on_face(face, np.asarray(place, float))
        if off_m > _OFF_M:
            raise InputError(
                f"That place is {1e3 * off_m:.0f} mm off the casting face of '{piece.name}'; it "
                "may have been cut away since. Touch the piece itself.",
                "at_m",
            )
        x_m, y_m, z_m = (float(one) for one in on_face)
        found.append(((x_m, y_m, z_m), names.of(on_face)))
    return found


def _on_face(face: Mesh, place: Floats) -> tuple[Floats, float]:
    """Return the nearest point of a surface, and how far it is. [m]"""
    import trimesh

    corners = face.vertices[face.faces]
    points = trimesh.triangles.closest_point(corners, np.repeat(place[None], len(corners), axis=0))
    far = np.linalg.norm(points - place, axis=1)
    nearest = int(np.argmin(far))
    return points[nearest], float(far[nearest])


# --- beside what was simulated ---


def set_beside(transaction: Transaction, pour_id: UUID, run: CoatRunRow, cast_kg: float) -> None:
    """Note what a simulation of the pour has where its cast was read."""
    rows = [one for one in list_readings(transaction, pour_id) if one.x_m is not None]
    if not rows:
        return
    walls = walls_at(unpack_wall(run.model), _points(rows))
    for row, wall_m in zip(rows, walls, strict=True):
        row.simulated_m = float(wall_m) if wall_m > 0.0 else None
        row.simulated_kg = cast_kg
    unlearn(transaction.find(Pour, pour_id, "pour", lock=True))
    transaction.session.flush()


def walls_at(model: WallModel, places: Floats) -> Floats:
    """Return the wall of the faces nearest to places, (n,). [m]"""
    _, faces = cKDTree(face_frames(model.mesh)[0]).query(places)
    return np.asarray(model.wall_m[faces])


def ratio_on(model: WallModel, rows: Sequence[WallReadingRow]) -> Floats | None:
    """Return by how much the wall was read thicker than simulated, on every corner; None unread."""
    read = [(row, row.wall_m / row.simulated_m) for row in rows if row.wall_m and row.simulated_m]
    if not read:
        return None
    places = _points([row for row, _ in read])
    return read_ratio(places, [ratio for _, ratio in read], model.mesh.vertices)


def _points(rows: Sequence[WallReadingRow]) -> Floats:
    return np.array([(row.x_m, row.y_m, row.z_m) for row in rows], float)

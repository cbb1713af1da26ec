"""Pieces: files taken in, units asked, faces measured."""

from collections.abc import Sequence
from dataclasses import asdict
from datetime import timedelta
from hashlib import sha256
from typing import Any
from uuid import UUID

from sqlalchemy import delete, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import undefer

from mildhusk.core.errors import MeshFileError
from mildhusk.core.geometry.length_units import LengthUnit, guess_unit
from mildhusk.core.geometry.measure import FaceMeasures, Opening, measure_face
from mildhusk.core.geometry.mesh import Mesh
from mildhusk.core.geometry.reading import read_stl
from mildhusk.services.desk import Desk
from mildhusk.services.errors import ConflictError, NotFoundError
from mildhusk.store.tables import CastSheetRow, MeshFile, MouldRow, Piece

# An upload nobody made a piece of is kept this long.
_KEEP_UNUSED = timedelta(days=1)


def take_in_file(desk: Desk, file_name: str, content: bytes) -> MeshFile:
    """Read an uploaded file and keep it untouched; the same content is kept once."""
    mesh = read_stl(content)
    if not mesh.extents.any():
        raise MeshFileError("The shape has no size: all its corners are at one place.")
    unit, sure = guess_unit(mesh)
    _forget_unused_files(desk)
    key = sha256(content).hexdigest()
    desk.session.execute(
        insert(MeshFile)
        .values(
            workshop_id=desk.workshop_id,
            sha256=key,
            file_name=file_name[-255:],
            content=content,
            faces=len(mesh.faces),
            extents=mesh.extents.tolist(),
            guessed_unit=unit,
            guess_is_sure=sure,
            uploaded_at=desk.now,
        )
        # The same file again counts as new, so that it is not swept away under its owner.
        .on_conflict_do_update(
            index_elements=["workshop_id", "sha256"], set_={"uploaded_at": desk.now}
        )
    )
    return _find_file(desk, key)


def _forget_unused_files(desk: Desk) -> None:
    used = select(Piece.mesh_sha256).where(Piece.workshop_id == desk.workshop_id)
    desk.session.execute(
        delete(MeshFile).where(
            MeshFile.workshop_id == desk.workshop_id,
            MeshFile.uploaded_at < desk.now - _KEEP_UNUSED,
            MeshFile.sha256.not_in(used),
        )
    )


def _find_file(desk: Desk, key: str) -> MeshFile:
    found = desk.session.get(MeshFile, (desk.workshop_id, key), options=[undefer(MeshFile.content)])
    if found is None:
        raise NotFoundError("The uploaded file is no longer there; upload it again.")
    return found


def add_piece(desk: Desk, name: str, mesh_sha256: str, units: LengthUnit) -> Piece:
    """Measure an uploaded file in a unit and keep it as a piece."""
    mesh = _mesh_of(_find_file(desk, mesh_sha256), units)
    piece = Piece(
        workshop_id=desk.workshop_id,
        created_at=desk.now,
        name=name,
        mesh_sha256=mesh_sha256,
        units=units,
        measures=asdict(measure_face(mesh)),
    )
    desk.session.add(piece)
    desk.session.flush()
    return piece


def list_pieces(desk: Desk) -> Sequence[Piece]:
    """Return all pieces, the newest first."""
    mine = select(Piece).where(Piece.workshop_id == desk.workshop_id)
    return desk.session.scalars(mine.order_by(Piece.created_at.desc(), Piece.name)).all()


def find_piece(desk: Desk, key: UUID) -> Piece:
    """Return one piece."""
    return desk.find(Piece, key, "piece")


def rename_piece(desk: Desk, key: UUID, version: int, name: str) -> Piece:
    """Give a piece another name."""
    piece = desk.find_version(Piece, key, version, "piece")
    piece.name = name
    desk.session.flush()
    return piece


def delete_piece(desk: Desk, key: UUID) -> None:
    """Delete a piece that no cast sheet uses."""
    piece = desk.find(Piece, key, "piece", lock=True)
    used_by = desk.session.scalars(
        select(CastSheetRow.name).where(CastSheetRow.piece_id == key).limit(1)
    ).first()
    if used_by is not None:
        raise ConflictError(f"The cast sheet '{used_by}' uses this piece; delete the sheet first.")
    mould = desk.session.scalars(
        select(MouldRow.name).where(MouldRow.piece_id == key).limit(1)
    ).first()
    if mould is not None:
        raise ConflictError(f"The mould '{mould}' is of this piece; delete the mould first.")
    desk.session.delete(piece)
    desk.session.flush()


def face_of(piece: Piece) -> FaceMeasures:
    """Return the measures of a piece as the core's value."""
    kept: dict[str, Any] = dict(piece.measures)
    kept["openings"] = tuple(
        Opening(o["perimeter_m"], o["area_m2"], _triple(o["centre_m"])) for o in kept["openings"]
    )
    kept["lowest_m"], kept["highest_m"] = _triple(kept["lowest_m"]), _triple(kept["highest_m"])
    return FaceMeasures(**kept)


def _triple(values: list[float]) -> tuple[float, float, float]:
    x, y, z = values
    return (x, y, z)


def mesh_of_piece(desk: Desk, key: UUID) -> Mesh:
    """Return the mesh of a piece in metres, with its outside outside."""
    piece = find_piece(desk, key)
    mesh = _mesh_of(_find_file(desk, piece.mesh_sha256), LengthUnit(piece.units))
    return mesh.flipped() if face_of(piece).flipped else mesh


def _mesh_of(file: MeshFile, units: LengthUnit) -> Mesh:
    return read_stl(file.content).scaled(units.metres)

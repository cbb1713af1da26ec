"""Pieces: files taken in, units asked, faces measured."""

import math
from collections.abc import Sequence
from dataclasses import asdict, dataclass
from datetime import timedelta
from hashlib import sha256
from typing import Any
from uuid import UUID

import numpy as np
from sqlalchemy import delete, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import undefer

from mildhusk.core.errors import ConditionError, MeshFileError
from mildhusk.core.geometry.asked import SurveyWish
from mildhusk.core.geometry.byhand import AreaMeasure, better_of
from mildhusk.core.geometry.curve import VolumeCurve
from mildhusk.core.geometry.length_units import LengthUnit, guess_unit
from mildhusk.core.geometry.level import (
    RimTest,
    level_curve,
    liquid_surface,
    rim_section,
    rim_test,
)
from mildhusk.core.geometry.measure import FaceMeasures, Opening
from mildhusk.core.geometry.mesh import Floats, Mesh
from mildhusk.core.geometry.openings import open_mould, rims
from mildhusk.core.geometry.reading import read_shape
from mildhusk.core.geometry.sections import Girth, girths
from mildhusk.core.geometry.survey import Survey, survey, survey_made
from mildhusk.core.geometry.wearing import Fit, Head, fit_of
from mildhusk.core.planning.document import survey_document
from mildhusk.documents.model import PieceModel, pack_model, unpack_model
from mildhusk.services.desk import Desk
from mildhusk.services.errors import ConflictError, NotFoundError
from mildhusk.store.tables import CastSheetRow, MeshFile, MouldRow, Piece, PieceSource

# An upload nobody made a piece of is kept this long.
_KEEP_UNUSED = timedelta(days=1)


@dataclass(frozen=True, slots=True)
class RimQuestion:
    """How much liquid, how far tilted and which way, and with which skirt. [m^3], [rad], [m]"""

    volume_m3: float
    tilt: float
    heading: float
    skirt_m: float


def take_in_file(desk: Desk, file_name: str, content: bytes) -> MeshFile:
    """Read an uploaded file and keep it untouched; the same content is kept once."""
    mesh = read_shape(content, file_name)
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
    return find_file(desk, key)


def _forget_unused_files(desk: Desk) -> None:
    used = select(Piece.mesh_sha256).where(
        Piece.workshop_id == desk.workshop_id, Piece.mesh_sha256.is_not(None)
    )
    desk.session.execute(
        delete(MeshFile).where(
            MeshFile.workshop_id == desk.workshop_id,
            MeshFile.uploaded_at < desk.now - _KEEP_UNUSED,
            MeshFile.sha256.not_in(used),
        )
    )


def find_file(desk: Desk, key: str) -> MeshFile:
    """Return an uploaded file with its content."""
    found = desk.session.get(MeshFile, (desk.workshop_id, key), options=[undefer(MeshFile.content)])
    if found is None:
        raise NotFoundError("The uploaded file is no longer there; upload it again.")
    return found


def add_piece(desk: Desk, name: str, mesh_sha256: str, units: LengthUnit) -> Piece:
    """Survey an uploaded file in a unit at once, and keep it as a piece."""
    wish = SurveyWish()
    found = _surveyed(find_file(desk, mesh_sha256), units, wish)
    return keep_surveyed(desk, name, PieceSource.FILE, mesh_sha256, units, asdict(wish), found)


def add_piece_by_hand(
    desk: Desk, name: str, source: PieceSource, asked: dict[str, Any], face: Mesh, band: float
) -> Piece:
    """Keep a piece that was measured by hand, as the face made of it and its band."""
    found = survey_made(face, band)
    return keep_surveyed(desk, name, source, None, LengthUnit.METRE, asked, found)


def keep_surveyed(
    desk: Desk,
    name: str,
    source: PieceSource,
    mesh_sha256: str | None,
    units: LengthUnit,
    asked: dict[str, Any],
    found: Survey,
) -> Piece:
    """Keep what a survey found as a new piece."""
    piece = Piece(
        workshop_id=desk.workshop_id,
        created_at=desk.now,
        name=name,
        source=source,
        mesh_sha256=mesh_sha256,
        units=units,
    )
    write_survey(piece, asked, found)
    desk.session.add(piece)
    desk.session.flush()
    return piece


def write_survey(piece: Piece, asked: dict[str, Any], found: Survey) -> None:
    """Write what a survey found onto a piece."""
    piece.asked = asked
    piece.measures = asdict(found.measures)
    piece.survey = survey_document(found)
    piece.face = pack_model(
        PieceModel(found.face, found.cut_away, found.narrow_faces, found.left_out)
    )


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
    curve = kept.get("curve")
    if curve is not None:
        kept["curve"] = VolumeCurve(
            tuple(curve["walls_m"]),
            tuple(curve["volumes_m3"]),
            curve["relative_error"],
            curve["point_m"],
            tuple(_triple(centre) for centre in curve.get("centres_m", [])),
        )
    return FaceMeasures(**kept)


def _triple(values: list[float]) -> tuple[float, float, float]:
    x, y, z = values
    return (x, y, z)


def model_of_piece(desk: Desk, key: UUID) -> PieceModel:
    """Return what is drawn of a piece: its casting face and what is said of parts of it."""
    piece = find_piece(desk, key)
    if not piece.face and piece.mesh_sha256 is not None:
        # Kept by an earlier version, which did not survey.
        file, wish = find_file(desk, piece.mesh_sha256), SurveyWish()
        write_survey(piece, asdict(wish), _surveyed(file, LengthUnit(piece.units), wish))
        desk.session.flush()
    return unpack_model(piece.face)


@dataclass(frozen=True, slots=True, eq=False)
class RimAnswer:
    """A rim test with what is drawn of it.

    Parameters
    ----------
    tested : RimTest
    section : (n, 2, 2) float
        Straight pieces as (across, up). [m]
    levels : (m, 2) float
        Height above the lowest place and volume up to there. [m], [m^3]
    surface : (k, 3, 3) float
        The flat top of the liquid, in the frame of the piece. [m]
    """

    tested: RimTest
    section: Floats
    levels: Floats
    surface: Floats


def try_rim(desk: Desk, key: UUID, asked: RimQuestion) -> RimAnswer:
    """Test whether a charge stays in the mould of a piece."""
    face = model_of_piece(desk, key).face
    mould = open_mould(face, rims(face))
    if mould is None:
        raise ConflictError("A closed piece has no rim: nothing can be poured in or spilt.")
    longer = mould.with_skirt(asked.skirt_m)
    tested = rim_test(longer, asked.volume_m3, asked.tilt, asked.heading)
    return RimAnswer(
        tested,
        rim_section(longer, asked.tilt, asked.heading),
        level_curve(longer, asked.tilt, asked.heading),
        liquid_surface(longer, tested),
    )


def girths_along(desk: Desk, key: UUID, axis: tuple[float, float, float] | None) -> list[Girth]:
    """Tape a piece along an axis; along the way out of its largest opening when none is given."""
    face = model_of_piece(desk, key).face
    if axis is None:
        found = rims(face)
        along = found[0].out if found else np.array([0.0, 0.0, 1.0])
    else:
        length = math.hypot(*axis)
        if not length > 0.0:
            raise ConditionError("The axis has no length; give three numbers that say a way.")
        along = np.array(axis) / length
    return list(girths(face, along))


def fit_head(desk: Desk, key: UUID, head: Head, wall_m: float) -> Fit:
    """Fit a head into a husk of a piece."""
    piece = find_piece(desk, key)
    model_of_piece(desk, key)  # surveys a piece of an earlier version
    found = piece.survey
    if not found["opening_girth_m"]:
        raise ConflictError("A closed piece has no opening a head could pass.")
    return fit_of(head, found["widest_girth_m"], found["opening_girth_m"], wall_m)


def compare_pieces(desk: Desk, one: UUID, other: UUID) -> tuple[Piece, str]:
    """Return the better of two measures of one thing, and why."""
    pieces = [find_piece(desk, key) for key in (one, other)]
    measures = [
        AreaMeasure(piece.name, face.area_m2, face.band)
        for piece, face in ((piece, face_of(piece)) for piece in pieces)
    ]
    best, reason = better_of(*measures)
    return pieces[measures.index(best)], reason


def _surveyed(file: MeshFile, units: LengthUnit, wish: SurveyWish) -> Survey:
    mesh = read_shape(file.content, file.file_name)
    return survey(mesh.scaled(units.metres), wish)

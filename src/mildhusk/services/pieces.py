"""Pieces: files taken in, units asked, faces measured."""

import math
from dataclasses import dataclass
from datetime import datetime
from typing import Any
from uuid import UUID

import numpy as np
from sqlalchemy import String, case, cast, func, select

from mildhusk.core.errors import ConditionError
from mildhusk.core.geometry.answer import SurveyFacts
from mildhusk.core.geometry.byhand import AreaMeasure, better_of
from mildhusk.core.geometry.length_units import LengthUnit
from mildhusk.core.geometry.level import (
    RimTest,
    level_curve,
    liquid_surface,
    rim_section,
    rim_test,
)
from mildhusk.core.geometry.measure import FaceMeasures
from mildhusk.core.geometry.mesh import Floats, Mesh
from mildhusk.core.geometry.openings import open_mould, rims
from mildhusk.core.geometry.reading import read_shape
from mildhusk.core.geometry.sections import Girth, girths
from mildhusk.core.geometry.survey import Survey, survey, survey_made, taped_along
from mildhusk.core.geometry.survey_options import SurveyWish
from mildhusk.core.geometry.wearing import Fit, Head, fit_of
from mildhusk.documents.model import PieceModel, pack_model, unpack_model
from mildhusk.services.deleted import put_away
from mildhusk.services.errors import ConflictError
from mildhusk.services.files import content_of, find_file
from mildhusk.services.transaction import Listed, Page, Transaction
from mildhusk.store.tables import CastSheetRow, KeptPattern, MouldRow, Piece, PieceSource, Pour
from mildhusk.store.values import FACES, SURVEY_WISHES, SURVEYS


@dataclass(frozen=True, slots=True)
class RimQuestion:
    """How much liquid, how far tilted and which way, and with which skirt. [m^3], [rad], [m]"""

    volume_m3: float
    tilt: float
    heading: float
    skirt_m: float


def add_piece_by_hand(
    transaction: Transaction,
    name: str,
    source: PieceSource,
    asked: dict[str, Any],
    face: Mesh,
    band: float,
) -> Piece:
    """Keep a piece that was measured by hand, as the face made of it and its band."""
    found = survey_made(face, band)
    return keep_surveyed(transaction, name, source, None, LengthUnit.METRE, asked, found)


def keep_surveyed(
    transaction: Transaction,
    name: str,
    source: PieceSource,
    mesh_sha256: str | None,
    units: LengthUnit,
    asked: dict[str, Any],
    found: Survey,
) -> Piece:
    """Keep what a survey found as a new piece."""
    piece = Piece(
        workshop_id=transaction.workshop_id,
        created_at=transaction.now,
        name=name,
        source=source,
        mesh_sha256=mesh_sha256,
        units=units,
    )
    write_survey(piece, asked, found)
    transaction.session.add(piece)
    transaction.session.flush()
    return piece


def write_survey(piece: Piece, asked: dict[str, Any], found: Survey) -> None:
    """Write what a survey found onto a piece."""
    piece.asked = asked
    piece.measures = FACES.write(found.measures)
    piece.survey = SURVEYS.write(SurveyFacts.of(found))
    piece.face = pack_model(
        PieceModel(found.face, found.casting.kinds, found.narrow_faces, found.casting.left_out)
    )


@dataclass(frozen=True, slots=True)
class PieceSummary:
    """What a list tells of a piece."""

    id: UUID
    version: int
    name: str
    source: PieceSource
    extents_m: tuple[float, float, float]
    area_m2: float
    volume_m3: float
    openings: int
    created_at: datetime
    picture: str


def list_pieces(transaction: Transaction, page: Page) -> Listed[PieceSummary]:
    """Return a page of the pieces, the newest first: two statements, whatever there is."""
    matching = Piece.name.icontains(page.search, autoescape=True)
    measures = Piece.measures
    made_of = cast(Piece.version, String)
    rows = transaction.session.execute(
        select(
            Piece.id,
            Piece.version,
            Piece.name,
            Piece.source,
            measures["lowest_m"],
            measures["highest_m"],
            measures["area_m2"].as_float(),
            measures["volume_m3"].as_float(),
            func.jsonb_array_length(measures["openings"]),
            Piece.created_at,
            Piece.picture,
            case((Piece.picture_of != made_of, made_of)),
        )
        .where(Piece.workshop_id == transaction.workshop_id, matching)
        .order_by(*page.ordered(Piece, Piece.name.expression))
        .limit(page.limit)
        .offset(page.offset)
    ).all()
    return Listed(
        tuple(
            PieceSummary(
                key, version, name, PieceSource(source), _extents(low, high), area, volume,
                openings, created, picture,
            )
            for (
                key, version, name, source, low, high, area, volume, openings, created, picture, _
            ) in rows
        ),
        transaction.count(Piece, matching),
        {row[0]: row[-1] for row in rows if row[-1] is not None},
    )  # fmt: skip


def _extents(lowest: list[float], highest: list[float]) -> tuple[float, float, float]:
    x, y, z = (high - low for low, high in zip(lowest, highest, strict=True))
    return (x, y, z)


def find_piece(transaction: Transaction, key: UUID) -> Piece:
    """Return one piece."""
    return transaction.find(Piece, key, "piece")


def rename_piece(transaction: Transaction, key: UUID, version: int, name: str) -> Piece:
    """Give a piece another name."""
    piece = transaction.find_version(Piece, key, version, "piece")
    piece.name = name
    transaction.session.flush()
    return piece


def delete_piece(transaction: Transaction, key: UUID) -> UUID:
    """Delete a piece that no cast sheet, mould or pour is of; returns what brings it back."""
    piece = transaction.find(Piece, key, "piece", lock=True)
    used_by = transaction.session.scalars(
        select(CastSheetRow.name).where(CastSheetRow.piece_id == key).limit(1)
    ).first()
    if used_by is not None:
        raise ConflictError(f"The cast sheet '{used_by}' uses this piece; delete the sheet first.")
    mould = transaction.session.scalars(
        select(MouldRow.name).where(MouldRow.piece_id == key).limit(1)
    ).first()
    if mould is not None:
        raise ConflictError(f"The mould '{mould}' is of this piece; delete the mould first.")
    poured = transaction.session.scalars(
        select(Pour.sheet_name).where(Pour.piece_id == key).limit(1)
    ).first()
    if poured is not None:
        raise ConflictError(f"This piece was poured by '{poured}' and is in the log; it stays.")
    hanging = ((KeptPattern, KeptPattern.piece_id == key),)
    kept = put_away(transaction, piece, piece.name, hanging)
    transaction.session.delete(piece)
    transaction.session.flush()
    return kept


def face_of(piece: Piece) -> FaceMeasures:
    """Return the measures of a piece as the core's value."""
    return FACES.read(piece.measures)


def surveyed_of(piece: Piece) -> SurveyFacts | None:
    """Return what a survey found beside the measures; None of a piece from before surveys."""
    return SURVEYS.read(piece.survey) if piece.survey else None


def survey_wish_of(piece: Piece) -> SurveyWish | None:
    """Return what a survey of a piece's file was asked; None where it has no file."""
    return None if piece.mesh_sha256 is None else SURVEY_WISHES.read(piece.asked)


def model_of_piece(transaction: Transaction, key: UUID) -> PieceModel:
    """Return what is drawn of a piece: its casting face and what is said of parts of it."""
    piece = find_piece(transaction, key)
    if not piece.face and piece.mesh_sha256 is not None:
        # Kept by an earlier version, which did not survey.
        file, wish = find_file(transaction, piece.mesh_sha256), SurveyWish()
        mesh = read_shape(content_of(transaction, file.sha256), file.file_name).mesh
        found = survey(mesh.scaled(LengthUnit(piece.units).metres), wish)
        write_survey(piece, SURVEY_WISHES.write(wish), found)
        transaction.session.flush()
    return unpack_model(piece.face)


def file_of_piece(transaction: Transaction, key: UUID) -> Mesh:
    """Return the faces of a piece's file as they came. [m]"""
    piece = find_piece(transaction, key)
    if piece.mesh_sha256 is None:
        raise ConflictError("This piece has no file; it was measured by hand.")
    file = find_file(transaction, piece.mesh_sha256)
    mesh = read_shape(content_of(transaction, file.sha256), file.file_name).mesh
    return mesh.scaled(LengthUnit(piece.units).metres)


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


def try_rim(transaction: Transaction, key: UUID, asked: RimQuestion) -> RimAnswer:
    """Test whether a charge stays in the mould of a piece."""
    face = model_of_piece(transaction, key).face
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


def girths_along(
    transaction: Transaction, key: UUID, axis: tuple[float, float, float] | None
) -> list[Girth]:
    """Tape a piece along an axis; along the way out of its largest opening when none is given."""
    face = model_of_piece(transaction, key).face
    if axis is None:
        along = taped_along(face, rims(face))
    else:
        length = math.hypot(*axis)
        if not length > 0.0:
            raise ConditionError("The axis has no length; give three numbers that say a way.")
        along = np.array(axis) / length
    return list(girths(face, along))


def fit_head(transaction: Transaction, key: UUID, head: Head, wall_m: float) -> Fit:
    """Fit a head into a husk of a piece."""
    piece = find_piece(transaction, key)
    model_of_piece(transaction, key)  # surveys a piece of an earlier version
    found = surveyed_of(piece)
    if found is None or not found.opening_girth_m:
        raise ConflictError("A closed piece has no opening a head could pass.")
    return fit_of(head, found.widest_girth_m, found.opening_girth_m, wall_m)


def compare_pieces(transaction: Transaction, one: UUID, other: UUID) -> tuple[Piece, str]:
    """Return the better of two measures of one thing, and why."""
    pieces = [find_piece(transaction, key) for key in (one, other)]
    measures = [
        AreaMeasure(piece.name, face.area_m2, face.band)
        for piece, face in ((piece, face_of(piece)) for piece in pieces)
    ]
    best, reason = better_of(*measures)
    return pieces[measures.index(best)], reason

"""Pieces measured by hand."""

from uuid import UUID

from mildhusk.core.geometry.byhand import (
    CLAY_BAND,
    OUTLINE_BAND,
    Outline,
    Silhouette,
    Taping,
    area_of_cast,
    area_of_clay,
    ball_zone,
    filled,
    loft,
    silhouette_of,
    taping_band,
)
from mildhusk.core.geometry.mesh import Mesh
from mildhusk.services.pieces import add_piece_by_hand
from mildhusk.services.shelf import find_material, resin_of
from mildhusk.services.transaction import Transaction
from mildhusk.store.kept import facts
from mildhusk.store.tables import Piece, PieceSource


def silhouette(taping: Taping) -> Silhouette:
    """Return how a taped piece looks and what it measures, without keeping it."""
    return silhouette_of(taping)


def lofted(taping: Taping) -> Mesh:
    """Return the face of a taped piece, without keeping it."""
    return loft(taping)


def add_taped(transaction: Transaction, name: str, taping: Taping) -> Piece:
    """Keep a taped piece."""
    band = taping_band(taping)
    return add_piece_by_hand(transaction, name, PieceSource.TAPE, facts(taping), loft(taping), band)


def add_filled(
    transaction: Transaction,
    name: str,
    volume_m3: float,
    height_m: float,
    opening_m: float,
    outline: Outline,
) -> Piece:
    """Keep a piece that was filled with water or grain."""
    asked = {
        "volume_m3": volume_m3,
        "height_m": height_m,
        "opening_m": opening_m,
        "outline": str(outline),
    }
    face = filled(volume_m3, height_m, outline, opening_m)
    return add_piece_by_hand(transaction, name, PieceSource.FILLING, asked, face, OUTLINE_BAND)


def add_by_clay(transaction: Transaction, name: str, volume_m3: float, thickness_m: float) -> Piece:
    """Keep a piece by the clay of a blanket that lay on it."""
    face = ball_zone(area_of_clay(volume_m3, thickness_m))
    asked = {"volume_m3": volume_m3, "thickness_m": thickness_m}
    return add_piece_by_hand(transaction, name, PieceSource.CLAY, asked, face, CLAY_BAND)


def add_by_cast(
    transaction: Transaction,
    name: str,
    cast_kg: float,
    material_id: UUID,
    walls_m: tuple[float, ...],
) -> Piece:
    """Keep a piece by a weighed cast of it."""
    resin = resin_of(find_material(transaction, material_id))
    area, band = area_of_cast(cast_kg / resin.density_cured_kg_m3, walls_m)
    asked = {"cast_kg": cast_kg, "resin": resin.key, "walls_m": list(walls_m)}
    return add_piece_by_hand(transaction, name, PieceSource.CAST, asked, ball_zone(area), band)

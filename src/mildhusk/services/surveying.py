"""Surveys as jobs: a file becomes a piece, or a piece is surveyed with another wish."""

from dataclasses import asdict, dataclass, field
from functools import lru_cache
from typing import Any
from uuid import UUID

from mildhusk.core.geometry.asked import FaceRole, Mark, SkinChoice, SurveyWish
from mildhusk.core.geometry.length_units import LengthUnit
from mildhusk.core.geometry.measure import require_castable
from mildhusk.core.geometry.reading import read_shape
from mildhusk.core.geometry.survey import Survey, survey
from mildhusk.core.progress import Tell
from mildhusk.services.desk import Desk
from mildhusk.services.errors import ConflictError
from mildhusk.services.jobs import put_job
from mildhusk.services.pieces import find_file, keep_surveyed, write_survey
from mildhusk.store.tables import Job, JobKind, Piece, PieceSource


def wish_document(wish: SurveyWish) -> dict[str, Any]:
    """Return a wish as it is kept."""
    return asdict(wish)


def wish_of(kept: dict[str, Any]) -> SurveyWish:
    """Return a kept wish; one of an earlier version knows less."""
    marks = tuple(
        Mark(tuple(one["at_m"]), one["radius_m"], FaceRole(one["role"]))
        for one in kept.get("marks", [])
    )
    plain = {name: kept[name] for name in _PLAIN if name in kept}
    return SurveyWish(skin=SkinChoice(kept.get("skin", SkinChoice.OUTER)), marks=marks, **plain)


_PLAIN = ("rim_z_m", "skirt_m", "ledge_m", "close_holes")


def ask_piece(desk: Desk, name: str, mesh_sha256: str, units: LengthUnit, wish: SurveyWish) -> Job:
    """Ask for a piece of an uploaded file."""
    require_castable(max(find_file(desk, mesh_sha256).extents) * units.metres)
    asked = {
        "name": name,
        "mesh_sha256": mesh_sha256,
        "units": str(units),
        "wish": wish_document(wish),
    }
    return put_job(desk, JobKind.SURVEY, name, asked)


def ask_again(desk: Desk, key: UUID, version: int, wish: SurveyWish) -> Job:
    """Ask for another survey of a piece's untouched file: another skin, rim, skirt or marks."""
    piece = desk.find_version(Piece, key, version, "piece")
    if piece.mesh_sha256 is None:
        raise ConflictError("This piece has no file; what was measured by hand stays as it is.")
    asked = {
        "piece_id": str(piece.id),
        "version": piece.version,
        "mesh_sha256": piece.mesh_sha256,
        "units": piece.units,
        "wish": wish_document(wish),
    }
    return put_job(desk, JobKind.SURVEY, piece.name, asked)


@dataclass(frozen=True, slots=True)
class SurveyTask:
    """What a worker needs for a survey, read before it begins; it holds no transaction."""

    mesh_sha256: str
    content: bytes = field(compare=False, repr=False)
    file_name: str
    units: LengthUnit
    wish: SurveyWish

    @classmethod
    def read(cls, desk: Desk, asked: dict[str, Any]) -> "SurveyTask":
        """Read what a job asks for."""
        file = find_file(desk, asked["mesh_sha256"])
        units, wish = LengthUnit(asked["units"]), wish_of(asked["wish"])
        return cls(file.sha256, file.content, file.file_name, units, wish)

    def compute(self, tell: Tell) -> Survey:
        """Survey the file; the same again, as one asks while choosing, costs nothing."""
        kept = _kept(self)
        if not kept:
            tell(0.0, "reading the file")
            mesh = read_shape(self.content, self.file_name)
            kept.append(survey(mesh.scaled(self.units.metres), self.wish, tell))
        return kept[0]

    @staticmethod
    def write(desk: Desk, asked: dict[str, Any], found: Survey) -> dict[str, Any]:
        """Keep what was found; returns which piece it is."""
        if "piece_id" in asked:
            key = UUID(asked["piece_id"])
            piece = desk.find_version(Piece, key, asked["version"], "piece")
            write_survey(piece, asked["wish"], found)
            desk.session.flush()
        else:
            piece = keep_surveyed(
                desk,
                asked["name"],
                PieceSource.FILE,
                asked["mesh_sha256"],
                LengthUnit(asked["units"]),
                asked["wish"],
                found,
            )
        return {"piece_id": str(piece.id)}


@lru_cache(maxsize=2)
def _kept(_task: SurveyTask) -> list[Survey]:
    """Return where the survey of a task is put by whoever makes it first."""
    return []

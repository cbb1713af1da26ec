"""Surveys as jobs: a file becomes a piece, or a piece is surveyed with another wish."""

from dataclasses import dataclass, field
from functools import lru_cache
from typing import Any
from uuid import UUID

from mildhusk.core.geometry.length_units import LengthUnit
from mildhusk.core.geometry.measure import require_castable
from mildhusk.core.geometry.reading import read_shape
from mildhusk.core.geometry.survey import Survey, survey
from mildhusk.core.geometry.survey_options import SurveyWish
from mildhusk.core.progress import Tell
from mildhusk.services.errors import ConflictError
from mildhusk.services.files import content_of, facts_of, find_file
from mildhusk.services.jobs import JobState, put_job
from mildhusk.services.pieces import keep_surveyed, write_survey
from mildhusk.services.transaction import Transaction
from mildhusk.store.tables import JobKind, Piece, PieceSource
from mildhusk.store.values import SURVEY_WISHES


def ask_piece(
    transaction: Transaction, name: str, mesh_sha256: str, units: LengthUnit, wish: SurveyWish
) -> JobState:
    """Ask for a piece of an uploaded file."""
    require_castable(max(facts_of(find_file(transaction, mesh_sha256)).extents) * units.metres)
    asked = {
        "name": name,
        "mesh_sha256": mesh_sha256,
        "units": str(units),
        "wish": SURVEY_WISHES.write(wish),
    }
    return put_job(transaction, JobKind.SURVEY, name, asked)


def ask_again(transaction: Transaction, key: UUID, version: int, wish: SurveyWish) -> JobState:
    """Ask for another survey of a piece's untouched file: another skin, rim, skirt or marks."""
    piece = transaction.find_version(Piece, key, version, "piece")
    if piece.mesh_sha256 is None:
        raise ConflictError("This piece has no file; what was measured by hand stays as it is.")
    asked = {
        "piece_id": str(piece.id),
        "version": piece.version,
        "mesh_sha256": piece.mesh_sha256,
        "units": piece.units,
        "wish": SURVEY_WISHES.write(wish),
    }
    return put_job(transaction, JobKind.SURVEY, piece.name, asked)


@dataclass(frozen=True, slots=True)
class SurveyTask:
    """What a worker needs for a survey, read before it begins; it holds no transaction."""

    mesh_sha256: str
    content: bytes = field(compare=False, repr=False)
    file_name: str
    units: LengthUnit
    wish: SurveyWish

    @classmethod
    def read(cls, transaction: Transaction, asked: dict[str, Any]) -> "SurveyTask":
        """Read what a job asks for."""
        file = find_file(transaction, asked["mesh_sha256"])
        units, wish = LengthUnit(asked["units"]), SURVEY_WISHES.read(asked["wish"])
        content = content_of(transaction, file.sha256)
        return cls(file.sha256, content, file.file_name, units, wish)

    def compute(self, tell: Tell) -> Survey:
        """Survey the file; the same again, as one asks while choosing, costs nothing."""
        kept = _kept(self)
        if not kept:
            tell(0.0, "reading the file")
            mesh = read_shape(self.content, self.file_name).mesh
            kept.append(survey(mesh.scaled(self.units.metres), self.wish, tell))
        return kept[0]

    @staticmethod
    def write(transaction: Transaction, asked: dict[str, Any], found: Survey) -> dict[str, Any]:
        """Keep what was found; returns which piece it is."""
        if "piece_id" in asked:
            key = UUID(asked["piece_id"])
            piece = transaction.find_version(Piece, key, asked["version"], "piece")
            write_survey(piece, asked["wish"], found)
            transaction.session.flush()
        else:
            piece = keep_surveyed(
                transaction,
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

"""The study of a piece for a mould, and the plan of a studied mould."""

from dataclasses import dataclass, field
from datetime import datetime
from decimal import Decimal
from functools import lru_cache
from hashlib import sha256
from typing import Any
from uuid import UUID

from sqlalchemy import select, update

from mildhusk.core.equipment import Equipment
from mildhusk.core.geometry.mesh import Mesh
from mildhusk.core.materials.kinds import Rubber, ShellMaterial
from mildhusk.core.mould.patches import PatchPlace
from mildhusk.core.mould.plan import MouldPlan, plan_mould
from mildhusk.core.mould.study import MouldStudy, study_mould
from mildhusk.core.progress import Tell
from mildhusk.documents.mould_model import pack_study, split_to_glb, unpack_study
from mildhusk.services.errors import ConflictError
from mildhusk.services.jobs import JobState, put_job
from mildhusk.services.mould_build import build_of, place_of, wish_of
from mildhusk.services.pieces import model_of_piece
from mildhusk.services.shelf import material_of
from mildhusk.services.transaction import Transaction
from mildhusk.store.tables import JobKind, Material, MouldRow, Piece


@dataclass(frozen=True, slots=True)
class PlanRequest:
    """When a build shall begin, with which equipment, what wet charge it is lifted with."""

    begins: datetime
    equipment: Equipment
    charge_kg: float


@dataclass(frozen=True, slots=True)
class MouldPrices:
    """What a kilogram costs: of the rubber, and of each soft place's."""

    rubber: Decimal
    patches: tuple[Decimal, ...] = ()


def is_studied(row: MouldRow) -> bool:
    """Whether what was found of the piece holds for the mould as it is now."""
    return bool(row.study) and row.study.get("of") == _studied_of(row)


def _studied_of(row: MouldRow) -> dict[str, Any]:
    rubber = build_of(row).rubber
    return {
        "piece_id": str(row.piece_id),
        "piece_version": row.piece.version,
        "wall_m": row.rubber_wall_m,
        "elongation": rubber.elongation,
        "places": [one.place for one in row.patches],
    }


def ask_study(transaction: Transaction, row: MouldRow) -> JobState:
    """Ask a worker to study the piece for a mould."""
    job = put_job(transaction, JobKind.MOULD, row.name, {"mould_id": str(row.id)}, str(row.id))
    # A queue that does it at once has written to the row.
    transaction.session.refresh(row)
    return job


@dataclass(frozen=True, slots=True)
class StudyTask:
    """What a worker needs to study a piece for a mould."""

    face_key: str
    face: Mesh = field(compare=False, repr=False)
    rubber: Rubber
    wall_m: float
    places: tuple[PatchPlace, ...]
    of: dict[str, Any] = field(compare=False)

    @classmethod
    def read(cls, transaction: Transaction, asked: dict[str, Any]) -> "StudyTask":
        """Read what a job asks for."""
        row = _mould(transaction, UUID(asked["mould_id"]))
        model = model_of_piece(transaction, row.piece_id)
        piece = transaction.session.get_one(Piece, row.piece_id)
        key = sha256(piece.face).hexdigest()
        places = tuple(place_of(one) for one in row.patches)
        rubber = build_of(row).rubber
        return cls(key, model.face, rubber, row.rubber_wall_m, places, _studied_of(row))

    def compute(self, tell: Tell) -> MouldStudy:
        """Study it; the same again costs nothing."""
        kept = _kept(self)
        if not kept:
            kept.append(study_mould(self.face, self.rubber, self.wall_m, tell, self.places))
        return kept[0]

    def write(
        self, transaction: Transaction, asked: dict[str, Any], found: MouldStudy
    ) -> dict[str, Any]:
        """Keep what was found."""
        row = _mould(transaction, UUID(asked["mould_id"]))
        document, model = pack_study(found)
        # Past the version: what a worker found out is no edit that a person could lose.
        transaction.session.execute(
            update(MouldRow)
            .where(MouldRow.id == row.id)
            .values(study={**document, "of": self.of}, study_model=model)
        )
        return {"mould_id": str(row.id)}


@lru_cache(maxsize=4)
def _kept(_task: StudyTask) -> list[MouldStudy]:
    """Return where the study of a task is put by whoever makes it first."""
    return []


def study_of(row: MouldRow) -> MouldStudy:
    """Return what was found of the piece for a mould.

    Raises
    ------
    ConflictError
        Nothing yet, or what was found no longer holds.
    """
    if not is_studied(row):
        raise ConflictError("The piece is not studied for this mould yet; ask for it.")
    return unpack_study(row.study, row.study_model)


def plan_of_mould(
    transaction: Transaction, row: MouldRow, prices: MouldPrices, asked: PlanRequest
) -> MouldPlan:
    """Plan a studied mould."""
    rows = transaction.session.scalars(
        select(Material).where(
            Material.workshop_id == transaction.workshop_id, Material.kind == "shell"
        )
    )
    shells = tuple(one for one in map(material_of, rows) if isinstance(one, ShellMaterial))
    return plan_mould(
        study_of(row),
        wish_of(row),
        shells=shells,
        rubber_price_per_kg=prices.rubber,
        patch_prices_per_kg=prices.patches,
        begins=asked.begins,
        equipment=asked.equipment,
        charge_kg=asked.charge_kg,
    )


def model_of_mould(transaction: Transaction, key: UUID, parts: int) -> bytes:
    """Return the outside of a mould's rubber as binary glTF, what locks a shell in parts apart."""
    study = study_of(_mould(transaction, key))
    split = next((one for one in study.splits if one.parts == parts), study.splits[0])
    return split_to_glb(study, split)


def _mould(transaction: Transaction, key: UUID) -> MouldRow:
    return transaction.find(MouldRow, key, "mould")

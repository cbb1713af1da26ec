"""Moulds: how they are built, what that takes, what becomes of them."""

from collections.abc import Sequence
from dataclasses import asdict, dataclass, field
from datetime import datetime
from decimal import Decimal
from functools import lru_cache
from hashlib import sha256
from typing import Any
from uuid import UUID

from sqlalchemy import select, update
from sqlalchemy.orm import joinedload

from mildhusk.core.bench import Bench
from mildhusk.core.errors import MouldError
from mildhusk.core.geometry.mesh import Mesh
from mildhusk.core.materials.kinds import Rubber, ShellMaterial
from mildhusk.core.mould.brushing import BrushWish
from mildhusk.core.mould.checks import CHECKS
from mildhusk.core.mould.estimate import MouldBuild, MouldEstimate, estimate_mould
from mildhusk.core.mould.patches import PatchPlace, SoftPatch
from mildhusk.core.mould.plan import MouldPlan, MouldWish, plan_mould
from mildhusk.core.mould.poured import volume_of_clay
from mildhusk.core.mould.study import MouldStudy, MouldWay, study_mould
from mildhusk.core.progress import Tell
from mildhusk.documents.mould_model import pack_study, split_to_glb, unpack_study
from mildhusk.services.desk import Desk
from mildhusk.services.errors import ConflictError
from mildhusk.services.jobs import put_job
from mildhusk.services.pieces import face_of, find_piece, model_of_piece
from mildhusk.services.shelf import find_material, material_of
from mildhusk.store.tables import (
    Job,
    JobKind,
    Material,
    MouldEvent,
    MouldEventKind,
    MouldPatch,
    MouldRow,
    Piece,
)


@dataclass(frozen=True, slots=True)
class PatchAsked:
    """A soft place, and its rubber."""

    name: str
    place: PatchPlace
    rubber_id: UUID


@dataclass(frozen=True, slots=True)
class MouldAsked:
    """What is kept of a mould.

    `brush` holds the fields of a `BrushWish` but its wall; `clay` what the removed blanket weighed
    (`mass_kg`) or the sides of the block it was packed to (`size_m`).
    """

    name: str
    piece_id: UUID
    rubber_id: UUID
    shell_id: UUID
    rubber_wall_m: float
    life_casts: int
    way: MouldWay = MouldWay.BRUSH
    parts: int | None = None
    brush: dict[str, Any] = field(default_factory=dict)
    clay: dict[str, Any] = field(default_factory=dict)
    patches: tuple[PatchAsked, ...] = ()


@dataclass(frozen=True, slots=True)
class PlanAsked:
    """When a build shall begin, at which bench, what wet charge it is lifted with."""

    begins: datetime
    bench: Bench
    charge_kg: float


@dataclass(frozen=True, slots=True)
class MouldPrices:
    """What a kilogram costs: of the rubber, and of each soft place's."""

    rubber: Decimal
    patches: tuple[Decimal, ...] = ()


def preview_mould(desk: Desk, asked: MouldAsked) -> MouldEstimate:
    """Estimate a mould without keeping it."""
    piece = find_piece(desk, asked.piece_id)
    rubber, shell = find_material(desk, asked.rubber_id), find_material(desk, asked.shell_id)
    build = _build(rubber, shell, asked.rubber_wall_m, asked.life_casts)
    patches = tuple(
        _patch(one.name, one.place, find_material(desk, one.rubber_id)) for one in asked.patches
    )
    _wish(build, _kept_build(asked), patches)
    return estimate_mould(face_of(piece), build)


def add_mould(desk: Desk, asked: MouldAsked) -> MouldRow:
    """Keep a mould that can be estimated, and ask for its study where there is a worker."""
    preview_mould(desk, asked)
    row = MouldRow(
        workshop_id=desk.workshop_id,
        created_at=desk.now,
        study={},
        study_model=b"",
        checks={},
        **_columns(asked),
        patches=_patch_rows(desk, asked),
    )
    desk.session.add(row)
    desk.session.flush()
    if desk.queue is not None:
        ask_study(desk, row)
    return row


def edit_mould(desk: Desk, key: UUID, version: int, asked: MouldAsked) -> MouldRow:
    """Change a mould; what was found of its piece is found again when it no longer holds."""
    row = desk.find_version(MouldRow, key, version, "mould")
    preview_mould(desk, asked)
    for column, value in _columns(asked).items():
        setattr(row, column, value)
    row.patches = _patch_rows(desk, asked)
    desk.session.flush()
    desk.session.refresh(row)
    if desk.queue is not None and not is_studied(row):
        ask_study(desk, row)
    return row


def _columns(asked: MouldAsked) -> dict[str, object]:
    plain = ("name", "piece_id", "rubber_id", "shell_id", "rubber_wall_m", "life_casts")
    columns: dict[str, object] = {name: getattr(asked, name) for name in plain}
    columns["build"] = _kept_build(asked)
    return columns


def _kept_build(asked: MouldAsked) -> dict[str, Any]:
    return {
        "way": str(asked.way),
        "parts": asked.parts,
        "brush": asked.brush,
        "clay": asked.clay,
    }


def _patch_rows(desk: Desk, asked: MouldAsked) -> list[MouldPatch]:
    return [
        MouldPatch(
            workshop_id=desk.workshop_id,
            created_at=desk.now,
            number=number,
            name=one.name,
            rubber_id=one.rubber_id,
            place=asdict(one.place),
        )
        for number, one in enumerate(asked.patches, start=1)
    ]


def list_moulds(desk: Desk) -> Sequence[MouldRow]:
    """Return all moulds, the newest first."""
    return desk.session.scalars(
        select(MouldRow)
        .where(MouldRow.workshop_id == desk.workshop_id)
        .options(
            joinedload(MouldRow.piece), joinedload(MouldRow.rubber), joinedload(MouldRow.shell)
        )
        .order_by(MouldRow.created_at.desc(), MouldRow.name)
    ).all()


def find_mould(desk: Desk, key: UUID) -> MouldRow:
    """Return one mould."""
    return desk.find(MouldRow, key, "mould")


def delete_mould(desk: Desk, key: UUID) -> None:
    """Delete a mould."""
    desk.session.delete(desk.find(MouldRow, key, "mould", lock=True))
    desk.session.flush()


def build_of(row: MouldRow) -> MouldBuild:
    """Return how a kept mould is built, as the core's value."""
    return _build(row.rubber, row.shell, row.rubber_wall_m, row.life_casts)


def wish_of(row: MouldRow) -> MouldWish:
    """Return what is wanted of a kept mould; one of an earlier version is brushed."""
    patches = tuple(_patch(one.name, place_of(one), one.rubber) for one in row.patches)
    return _wish(build_of(row), row.build, patches)


def place_of(patch: MouldPatch) -> PatchPlace:
    """Return where a kept soft place is."""
    x, y, z = patch.place["at_m"]
    return PatchPlace((x, y, z), patch.place["radius_m"])


def estimate_of(row: MouldRow) -> MouldEstimate:
    """Return what a kept mould takes: by its plan once its piece is studied, else estimated."""
    if not is_studied(row):
        return estimate_mould(face_of(row.piece), build_of(row))
    # Neither price nor day changes what it takes.
    plan = plan_mould(
        study_of(row),
        wish_of(row),
        shells=(),
        rubber_price_per_kg=Decimal(0),
        begins=row.created_at,
        bench=Bench(),
    )
    return plan.estimate


def _build(rubber: Material, shell: Material, wall_m: float, life_casts: int) -> MouldBuild:
    of_rubber, of_shell = material_of(rubber), material_of(shell)
    if not isinstance(of_rubber, Rubber):
        raise MouldError(f"'{rubber.name}' is no mould rubber; choose one.", "rubber_id")
    if not isinstance(of_shell, ShellMaterial):
        raise MouldError(f"'{shell.name}' is no shell material; choose one.", "shell_id")
    return MouldBuild(of_rubber, wall_m, of_shell, life_casts)


def _patch(name: str, place: PatchPlace, rubber: Material) -> SoftPatch:
    of_rubber = material_of(rubber)
    if not isinstance(of_rubber, Rubber):
        raise MouldError(f"'{rubber.name}' is no mould rubber; choose one.", "patches")
    return SoftPatch(name, place, of_rubber)


def _wish(build: MouldBuild, kept: dict[str, Any], patches: tuple[SoftPatch, ...]) -> MouldWish:
    brush = dict(kept.get("brush", {}))
    brush["coats_m"] = tuple(brush.get("coats_m", ()))
    if not build.rubber.takes_thickener:
        brush["thickened_from"] = 0
    way = MouldWay(kept.get("way", MouldWay.BRUSH))
    clay = kept.get("clay") or None
    return MouldWish(
        build.rubber,
        build.shell,
        way,
        BrushWish(build.rubber_wall_m, **brush),
        kept.get("parts"),
        clay_m3=None if clay is None or way is not MouldWay.BLANKET else volume_of_clay(**clay),
        patches=patches,
    )


# --- the study ---


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


def ask_study(desk: Desk, row: MouldRow) -> Job:
    """Ask a worker to study the piece for a mould."""
    job = put_job(desk, JobKind.MOULD, row.name, {"mould_id": str(row.id)})
    # A queue that does it at once has written to the row.
    desk.session.refresh(row)
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
    def read(cls, desk: Desk, asked: dict[str, Any]) -> "StudyTask":
        """Read what a job asks for."""
        row = find_mould(desk, UUID(asked["mould_id"]))
        model = model_of_piece(desk, row.piece_id)
        piece = desk.session.get_one(Piece, row.piece_id)
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

    def write(self, desk: Desk, asked: dict[str, Any], found: MouldStudy) -> dict[str, Any]:
        """Keep what was found."""
        row = find_mould(desk, UUID(asked["mould_id"]))
        document, model = pack_study(found)
        # Past the version: what a worker found out is no edit that a person could lose.
        desk.session.execute(
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


def plan_of_mould(desk: Desk, row: MouldRow, prices: MouldPrices, asked: PlanAsked) -> MouldPlan:
    """Plan a studied mould."""
    rows = desk.session.scalars(
        select(Material).where(Material.workshop_id == desk.workshop_id, Material.kind == "shell")
    )
    shells = tuple(one for one in map(material_of, rows) if isinstance(one, ShellMaterial))
    return plan_mould(
        study_of(row),
        wish_of(row),
        shells=shells,
        rubber_price_per_kg=prices.rubber,
        patch_prices_per_kg=prices.patches,
        begins=asked.begins,
        bench=asked.bench,
        charge_kg=asked.charge_kg,
    )


def model_of_mould(desk: Desk, key: UUID, parts: int) -> bytes:
    """Return the outside of a mould's rubber as binary glTF, what locks a shell in parts apart."""
    study = study_of(find_mould(desk, key))
    split = next((one for one in study.splits if one.parts == parts), study.splits[0])
    return split_to_glb(study, split)


# --- its life ---


def add_event(desk: Desk, key: UUID, kind: MouldEventKind, note: str) -> MouldRow:
    """Write down what happened to a mould; a cast asks for its checks anew."""
    row = desk.find(MouldRow, key, "mould", lock=True)
    if row.retired_at is not None:
        raise ConflictError("This mould is retired; take it back into use first.")
    event = MouldEvent(
        workshop_id=desk.workshop_id,
        created_at=desk.now,
        mould_id=row.id,
        kind=kind,
        note=note,
    )
    desk.session.add(event)
    if kind is MouldEventKind.CAST:
        row.checks = {}
    desk.session.flush()
    desk.session.refresh(row, ["events"])
    return row


def retire_mould(desk: Desk, key: UUID, *, retired: bool) -> MouldRow:
    """Retire a mould, or take it back into use."""
    row = desk.find(MouldRow, key, "mould", lock=True)
    row.retired_at = desk.now if retired else None
    desk.session.flush()
    return row


def tick_check(desk: Desk, key: UUID, check: str, *, done: bool) -> MouldRow:
    """Tick a check before the next cast off, or take the tick back."""
    row = desk.find(MouldRow, key, "mould", lock=True)
    if check not in {one.id for one in CHECKS}:
        raise MouldError(f"There is no check '{check}'.", "check")
    ticked = {name: at for name, at in row.checks.items() if name != check}
    if done:
        ticked[check] = desk.now.isoformat()
    row.checks = ticked
    desk.session.flush()
    return row


def wish_values(row: MouldRow) -> dict[str, Any]:
    """Return how a mould is brushed, with what was left to the usual filled in."""
    return asdict(wish_of(row).brush)

"""The wall of a pour as it was really poured and turned, beside that of its plan."""

import json
from dataclasses import dataclass, field
from hashlib import sha256
from typing import Any
from uuid import UUID

import numpy as np
from sqlalchemy import func, select

from mildhusk.core.casting.charges import Charge, CoatingSetup
from mildhusk.core.casting.pour_plan import PourPlan
from mildhusk.core.cure.data_sheet import as_learned
from mildhusk.core.errors import CoatingError
from mildhusk.core.geometry.mesh import Flags, Floats, Mesh
from mildhusk.core.learning.lesson import Told
from mildhusk.core.learning.viscosity import FACTORS, FEWEST_READINGS, fitted_viscosity
from mildhusk.core.materials.casting_resin import CastingResin
from mildhusk.core.materials.catalogue import record_of
from mildhusk.core.pouring.as_poured import CoatAsPoured, charges_as_planned, charges_as_poured
from mildhusk.core.progress import Tell, within
from mildhusk.services.errors import ConflictError
from mildhusk.services.jobs import JobState, newest_jobs, put_job
from mildhusk.services.learning import unlearn
from mildhusk.services.pieces import find_piece, model_of_piece
from mildhusk.services.pour_facts import followed_by, records_of
from mildhusk.services.pours import find_pour
from mildhusk.services.readings import list_readings, set_beside, walls_at
from mildhusk.services.sheets import MODEL, SHAPED
from mildhusk.services.shelf import castable_of
from mildhusk.services.transaction import Transaction
from mildhusk.services.turning import recorded_lengths, turned_motion
from mildhusk.services.walls import Computed, keep_run
from mildhusk.store.kept import facts
from mildhusk.store.tables import CoatRunRow, JobKind, Pour, WallReadingRow
from mildhusk.store.values import WALLS, KeptWall, WallRequest

_MESHING, _PLANNED = 0.05, 0.4
FIT_EDGE_M = 0.012
"""Of the faces that a viscosity is fitted on: coarse, as it is done three times. [m]"""


class NotRecordedError(ConflictError):
    """Nobody recorded how a mould was turned."""

    def __init__(self) -> None:
        super().__init__(
            "How this mould was turned was not recorded. It can be simulated as planned, from the "
            "grams that were weighed."
        )


@dataclass(frozen=True, slots=True)
class PouredWalls:
    """The walls of a pour, as it was planned and as it was poured, else the job for both.

    `why` says why there is none; `can_be` that it can be asked for all the same.
    """

    planned: CoatRunRow | None
    poured: CoatRunRow | None
    job: JobState | None
    why: str = ""
    can_be: bool = False


@dataclass(frozen=True, slots=True)
class _Facts:
    """All that both walls are computed from, but for the shape of the piece."""

    material: CastingResin
    plan: PourPlan
    setup: CoatingSetup
    planned: list[Charge]
    poured: list[Charge]
    recorded: tuple[int, ...]
    motion: str

    @property
    def resin(self) -> CastingResin:
        """As it was planned with."""
        return as_learned(self.material, self.plan.time_factor, self.plan.viscosity_factor)


def poured_walls(transaction: Transaction, pour_id: UUID, *, again: bool = False) -> PouredWalls:
    """Return the walls of a pour, or ask a worker for them.

    What was refused or cancelled is asked for again only where that is wanted, and so is a pour
    whose turning nobody recorded: it is taken to be turned as planned.

    Raises
    ------
    NotRecordedError
        And it is not wanted `again`.
    ConflictError
        Of its piece only the size is known.
    CoatingError
        A pour that is older than what is needed, or whose plan says no way of turning.
    """
    pour = find_pour(transaction, pour_id)
    found = _facts_of(transaction, pour)
    if not found.poured:
        raise CoatingError("Nothing was poured into this mould.")
    key = _key(transaction, pour, found)
    planned, poured = _keys(key)
    transaction.session.execute(select(func.pg_advisory_xact_lock(func.hashtext(key))))
    runs = {
        run.key: run
        for run in transaction.session.scalars(
            select(CoatRunRow).where(
                CoatRunRow.workshop_id == transaction.workshop_id,
                CoatRunRow.key.in_([planned, poured]),
            )
        )
    }
    if len(runs) == 2:
        return PouredWalls(runs[planned], runs[poured], None)
    job = newest_jobs(transaction, JobKind.POURED, [key]).get(key)
    if job is None and not found.recorded and not again:
        raise NotRecordedError
    if job is None or (not job.is_open and again):
        asked = {"key": key, "pour_id": str(pour_id)}
        job = put_job(transaction, JobKind.POURED, pour.sheet_name, asked, key)
    return PouredWalls(None, None, job)


def _poured_coats(pour: Pour) -> list[int]:
    return [one.number for one in pour.coats if one.poured_at is not None]


def _facts_of(transaction: Transaction, pour: Pour) -> _Facts:
    plan = followed_by(pour)
    material = castable_of(pour.material)
    if plan.setup is None or not isinstance(material, CastingResin):
        raise CoatingError(
            "This pour began before its plan was kept as its wall needs it; the next one is told."
        )
    lengths = recorded_lengths(transaction, pour.id)
    recorded = tuple(one for one in _poured_coats(pour) if one in lengths)
    coats = [
        CoatAsPoured(
            record,
            row.room_k,
            turned_motion(transaction, pour.id, record.number)
            if record.number in recorded
            else None,
        )
        for record, row in zip(records_of(pour), pour.coats, strict=True)
    ]
    planned = charges_as_planned(plan)
    return _Facts(
        material, plan, plan.setup, planned, charges_as_poured(plan, coats), recorded,
        planned[0].motion.name,
    )  # fmt: skip


def _key(transaction: Transaction, pour: Pour, found: _Facts) -> str:
    """Return what hashes all that the walls of a pour are computed from."""
    piece = find_piece(transaction, pour.piece_id)
    if piece.source not in SHAPED:
        raise ConflictError(
            f"Of '{piece.name}' only its size is known, not its shape; the wall of a piece from a "
            "file or a tape can be shown."
        )
    whole = (
        MODEL, sha256(piece.face).hexdigest(), record_of(found.resin).sheet, facts(found.setup),
        facts(found.planned), facts(found.poured),
    )  # fmt: skip
    return sha256(json.dumps(whole, default=str, sort_keys=True).encode()).hexdigest()


def _keys(key: str) -> tuple[str, str]:
    """Return under what the wall of the plan is kept, and that of the pour."""
    planned, poured = (sha256(f"{which} {key}".encode()) for which in ("planned", "poured"))
    return planned.hexdigest(), poured.hexdigest()


def poured_run(transaction: Transaction, pour_id: UUID) -> CoatRunRow | None:
    """Return the wall of a pour as it was poured, where it was simulated."""
    try:
        pour = find_pour(transaction, pour_id)
        key = _keys(_key(transaction, pour, _facts_of(transaction, pour)))[1]
    except (CoatingError, ConflictError):
        return None
    return transaction.session.scalars(
        select(CoatRunRow).where(
            CoatRunRow.workshop_id == transaction.workshop_id, CoatRunRow.key == key
        )
    ).first()


def read_beside(transaction: Transaction, pour_id: UUID) -> None:
    """Set the readings of a cast beside the simulation of its pour, where there is one."""
    run = poured_run(transaction, pour_id)
    if run is not None:
        set_beside(transaction, pour_id, run, WALLS.read(run.figures).wall.cast_kg)


@dataclass(frozen=True, slots=True)
class FitTask:
    """What a worker needs to fit the viscosity to the readings of a cast."""

    face: Mesh = field(repr=False)
    found: _Facts
    places: Floats = field(repr=False)
    read_m: tuple[float, ...]

    @classmethod
    def read(cls, transaction: Transaction, asked: dict[str, Any]) -> "FitTask":
        """Read what a job asks for, as it is now."""
        pour = find_pour(transaction, UUID(asked["pour_id"]))
        rows = _fitted_to(transaction, pour.id)
        if len(rows) < FEWEST_READINGS:
            raise ConflictError("Readings were taken off meanwhile; ask again.")
        places = np.array([(row.x_m, row.y_m, row.z_m) for row in rows], float)
        walls = tuple(float(row.wall_m or 0.0) for row in rows)
        face = model_of_piece(transaction, pour.piece_id).face
        return cls(face, _facts_of(transaction, pour), places, walls)

    def compute(self, tell: Tell) -> Told:
        """Simulate the pour with three viscosities; returns the one that fits best."""
        from mildhusk.core.casting.settling import bare_mould, land_charges
        from mildhusk.documents.wall_files import wall_model

        found, walls = self.found, []
        bare = bare_mould(self.face, FIT_EDGE_M, capped=found.setup.lid)
        for number, factor in enumerate(FACTORS):
            told = within(tell, number / len(FACTORS), (number + 1) / len(FACTORS))
            resin = as_learned(found.material, found.plan.time_factor, factor)
            landed = land_charges(bare, resin, found.setup, found.poured, FIT_EDGE_M, told)
            walls.append(walls_at(wall_model(landed.mould), self.places))
        return fitted_viscosity(np.array(walls), self.read_m)

    @staticmethod
    def write(transaction: Transaction, asked: dict[str, Any], found: Told) -> dict[str, Any]:
        """Keep it with the pour."""
        pour = transaction.find(Pour, UUID(asked["pour_id"]), "pour", lock=True)
        pour.viscosity = {"value": found.value, "noise": found.noise}
        unlearn(pour)
        transaction.session.flush()
        return {"pour_id": asked["pour_id"]}


def fit_viscosity(transaction: Transaction, pour_id: UUID) -> JobState:
    """Ask a worker to fit the viscosity of the resin to the readings of a cast."""
    pour = find_pour(transaction, pour_id)
    # What cannot be simulated says so.
    _key(transaction, pour, _facts_of(transaction, pour))
    rows = _fitted_to(transaction, pour_id)
    if len(rows) < FEWEST_READINGS:
        raise ConflictError(
            f"{len(rows)} readings on the piece tell nothing of the viscosity; take "
            f"{FEWEST_READINGS} or more."
        )
    key = f"fit {pour_id}"
    job = newest_jobs(transaction, JobKind.FIT, [key]).get(key)
    if job is not None and job.is_open:
        return job
    return put_job(transaction, JobKind.FIT, pour.sheet_name, {"pour_id": str(pour_id)}, key)


def _fitted_to(transaction: Transaction, pour_id: UUID) -> list[WallReadingRow]:
    rows = list_readings(transaction, pour_id)
    return [one for one in rows if one.wall_m is not None and one.x_m is not None]


@dataclass(frozen=True, slots=True)
class PouredTask:
    """What a worker needs to simulate a pour; it holds no transaction."""

    face: Mesh = field(repr=False)
    cut_away: Flags = field(repr=False)
    found: _Facts

    @classmethod
    def read(cls, transaction: Transaction, asked: dict[str, Any]) -> "PouredTask":
        """Read what a job asks for, as it is now."""
        pour = find_pour(transaction, UUID(asked["pour_id"]))
        found = _facts_of(transaction, pour)
        if _key(transaction, pour, found) != asked["key"]:
            raise ConflictError("The pour went on meanwhile; ask for its wall again.")
        model = model_of_piece(transaction, pour.piece_id)
        return cls(model.face, model.cut_away, found)

    def compute(self, tell: Tell) -> tuple[Computed, Computed]:
        """Simulate both on the same faces; returns the plan's, then the pour's."""
        # The flow is slow to load, and only a worker needs it.
        from mildhusk.core.casting.settling import bare_mould, land_charges
        from mildhusk.core.coating.answer import landed_wall
        from mildhusk.core.coating.grid import marked_on, usual_edge_m
        from mildhusk.documents.wall_files import pack_films, pack_wall, wall_model

        setup, edge_m = self.found.setup, usual_edge_m(self.face)
        tell(0.0, "meshing the casting face")
        bare = bare_mould(self.face, edge_m, capped=setup.lid)
        waste = marked_on(bare.grid, self.face, self.cut_away)
        asked = WallRequest(self.found.motion, setup.lid, edge_m)

        def computed(charges: list[Charge], recorded: tuple[int, ...], told: Tell) -> Computed:
            landed = land_charges(bare, self.found.resin, setup, charges, edge_m, told)
            wall = landed_wall(landed.mould, setup.density_kg_m3, setup.wall_m, waste)
            kept = WALLS.write(KeptWall(asked, wall, recorded=recorded))
            model = pack_wall(wall_model(landed.mould))
            return Computed(kept, model, pack_films(landed.mould, landed.played))

        return (
            computed(self.found.planned, (), within(tell, _MESHING, _PLANNED)),
            computed(self.found.poured, self.found.recorded, within(tell, _PLANNED, 1.0)),
        )

    def write(
        self, transaction: Transaction, asked: dict[str, Any], found: tuple[Computed, Computed]
    ) -> dict[str, Any]:
        """Keep both."""
        keys = _keys(asked["key"])
        for key, one in zip(keys, found, strict=True):
            keep_run(transaction, key, one)
        read_beside(transaction, UUID(asked["pour_id"]))
        return {"pour_id": asked["pour_id"]}

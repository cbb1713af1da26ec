"""How a mould is built: from the rows that keep it to the core's values."""

from dataclasses import dataclass
from uuid import UUID

from mildhusk.core.errors import MouldError
from mildhusk.core.materials.kinds import Rubber, ShellMaterial
from mildhusk.core.mould.brushing import BrushWish
from mildhusk.core.mould.estimate import MouldBuild
from mildhusk.core.mould.patches import PatchPlace, SoftPatch
from mildhusk.core.mould.plan import MouldWish
from mildhusk.core.mould.poured import volume_of_clay
from mildhusk.core.mould.study import MouldWay
from mildhusk.services.shelf import material_of
from mildhusk.store.kept import facts
from mildhusk.store.tables import Material, MouldPatch, MouldRow
from mildhusk.store.values import BUILDS, KeptBuild


@dataclass(frozen=True, slots=True)
class PatchRequest:
    """A soft place, and its rubber."""

    name: str
    place: PatchPlace
    rubber_id: UUID


@dataclass(frozen=True, slots=True)
class MouldRequest:
    """What is kept of a mould."""

    name: str
    piece_id: UUID
    rubber_id: UUID
    shell_id: UUID
    rubber_wall_m: float
    life_casts: int
    build: KeptBuild = KeptBuild()  # noqa: RUF009 - a frozen value
    patches: tuple[PatchRequest, ...] = ()


def build_of(row: MouldRow) -> MouldBuild:
    """Return how a kept mould is built, as the core's value."""
    return build_from(row.rubber, row.shell, row.rubber_wall_m, row.life_casts)


def kept_build_of(row: MouldRow) -> KeptBuild:
    """Return how a kept mould is put on; one of an earlier version is brushed."""
    return BUILDS.read(row.build)


def wish_of(row: MouldRow) -> MouldWish:
    """Return what is wanted of a kept mould."""
    patches = tuple(patch_from(one.name, place_of(one), one.rubber) for one in row.patches)
    return wish_from(build_of(row), kept_build_of(row), patches)


def place_of(patch: MouldPatch) -> PatchPlace:
    """Return where a kept soft place is."""
    x, y, z = patch.place["at_m"]
    return PatchPlace((x, y, z), patch.place["radius_m"])


def build_from(rubber: Material, shell: Material, wall_m: float, life_casts: int) -> MouldBuild:
    """Return a build of two materials of the shelf.

    Raises
    ------
    MouldError
        One of them is none for it, or a wall or a life out of range.
    """
    of_rubber, of_shell = material_of(rubber), material_of(shell)
    if not isinstance(of_rubber, Rubber):
        raise MouldError(f"'{rubber.name}' is no mould rubber; choose one.", "rubber_id")
    if not isinstance(of_shell, ShellMaterial):
        raise MouldError(f"'{shell.name}' is no shell material; choose one.", "shell_id")
    return MouldBuild(of_rubber, wall_m, of_shell, life_casts)


def patch_from(name: str, place: PatchPlace, rubber: Material) -> SoftPatch:
    """Return a soft place of a rubber of the shelf.

    Raises
    ------
    MouldError
        It is no rubber.
    """
    of_rubber = material_of(rubber)
    if not isinstance(of_rubber, Rubber):
        raise MouldError(f"'{rubber.name}' is no mould rubber; choose one.", "patches")
    return SoftPatch(name, place, of_rubber)


def wish_from(build: MouldBuild, kept: KeptBuild, patches: tuple[SoftPatch, ...]) -> MouldWish:
    """Return what is wanted of a mould.

    Raises
    ------
    MouldError
        A value out of range, or what does not go together.
    """
    brush = facts(kept.brush)
    brush["coats_m"] = kept.brush.coats_m
    if not build.rubber.takes_thickener:
        brush["thickened_from"] = 0
    clay_m3 = None
    if kept.clay is not None and kept.way is MouldWay.BLANKET:
        clay_m3 = volume_of_clay(mass_kg=kept.clay.mass_kg, size_m=kept.clay.size_m)
    return MouldWish(
        build.rubber,
        build.shell,
        kept.way,
        BrushWish(build.rubber_wall_m, **brush),
        kept.parts,
        clay_m3=clay_m3,
        patches=patches,
    )

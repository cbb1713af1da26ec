"""The command `husk coat`."""

import argparse
from dataclasses import dataclass
from pathlib import Path
from time import perf_counter
from typing import TYPE_CHECKING, Any

from mildhusk.cli.mixing import share
from mildhusk.cli.output import plain
from mildhusk.cli.shape import add_shape_words, survey_of
from mildhusk.core.casting.wish import LOSS
from mildhusk.core.errors import ConditionError, InputError
from mildhusk.core.materials.catalogue import shipped_resin
from mildhusk.quantities import read_quantity

if TYPE_CHECKING:
    from mildhusk.core.coating.answer import LandedWall
    from mildhusk.core.coating.coats import Coated
    from mildhusk.core.coating.motion import Motion
    from mildhusk.core.geometry.mesh import Mesh
    from mildhusk.core.materials.casting_resin import CastingResin

_MOST_COATS = 20


def add_words(coat: argparse.ArgumentParser) -> None:
    """Add the options of the command."""
    add_shape_words(coat, optional=True)
    coat.add_argument("--resin", metavar="KEY")
    coat.add_argument("--grams", metavar="240", help="A and B weighed for each coat, as on a sheet")
    coat.add_argument("--loss", default="5%", metavar="5%%", help="of that, what stays in the cup")
    coat.add_argument("--coats", type=int, default=1, metavar="4")
    coat.add_argument("--motion", default="machine", metavar="NAME|FILE.json")
    coat.add_argument("--list-motions", action="store_true", help="print their names")
    coat.add_argument("--capped", action="store_true", help="a lid closes every opening")
    coat.add_argument(
        "--pour", default="rim", choices=("rim", "low-place"), help="where an open mould is poured"
    )
    coat.add_argument("--temp", default="23C", metavar="21C", help="of room, mould and parts")
    coat.add_argument(
        "--edge", metavar="5mm", help="of the faces computed on; else as the piece's size asks"
    )
    coat.add_argument(
        "--band", metavar="3%", help="instead of an edge: finer until the wall changes by less"
    )
    coat.add_argument("--target", metavar="3mm", help="wall that thin places are judged by")
    coat.add_argument("--ply", type=Path, metavar="OUT.ply", help="the wall on every corner")


@dataclass(frozen=True, slots=True)
class CoatRequest:
    """What the options say, read."""

    resin: "CastingResin"
    kg: float
    loss: float
    coats: int
    motion: "Motion"
    room_k: float
    edge_m: float | None
    band: float | None
    target_m: float | None


def _list_motions() -> tuple[list[str], list[str]]:
    """Return the names of the motions, to print."""
    from mildhusk.core.coating.motion import motion_names

    names = list(motion_names())
    return names, names


def _read(given: argparse.Namespace) -> CoatRequest:
    """Read the options; a survey takes seconds, so this comes first."""
    from mildhusk.core.coating.motion import motion_named, read_motion

    if given.resin is None or given.grams is None:
        raise InputError("Give --resin and --grams; see husk coat --help.", "resin")
    if not 1 <= given.coats <= _MOST_COATS:
        raise InputError(f"{given.coats} coats; give 1 to {_MOST_COATS}.", "coats")
    if given.motion.endswith(".json"):
        try:
            motion = read_motion(Path(given.motion).read_text("utf-8"), given.motion)
        except OSError as error:
            raise InputError(f"{given.motion}: {error.strerror or error}.", "motion") from error
    else:
        motion = motion_named(given.motion)
    loss = share(given, "loss")
    LOSS.check(loss, "loss", ConditionError)
    return CoatRequest(
        resin=shipped_resin(given.resin),
        kg=read_quantity(given.grams, "kg", "g", name="The charge", field="grams"),
        loss=loss,
        coats=given.coats,
        motion=motion,
        room_k=read_quantity(given.temp, "K", "C", name="The temperature", field="temp"),
        edge_m=None
        if given.edge is None
        else read_quantity(given.edge, "m", "mm", name="The edge", field="edge"),
        band=None
        if given.band is None
        else read_quantity(given.band, "1", "%", name="The band", field="band"),
        target_m=None
        if given.target is None
        else read_quantity(given.target, "m", "mm", name="The target", field="target"),
    )


def run(given: argparse.Namespace) -> tuple[Any, list[str]]:
    """Simulate the coats on the casting face of a shape file."""
    if given.list_motions:
        return _list_motions()
    if given.file is None:
        raise InputError("Give the file of the piece; see husk coat --help.", "file")
    # What is wished for is read first: a survey takes seconds.
    asked = _read(given)
    file = survey_of(given)
    found, hints = file.survey, file.hints
    return _simulated(given, asked, found.face, hints)


def _simulated(
    given: argparse.Namespace, asked: CoatRequest, face: "Mesh", hints: list[str]
) -> tuple[Any, list[str]]:
    from mildhusk.core.coating.answer import landed_wall
    from mildhusk.core.coating.band import settled_wall
    from mildhusk.core.coating.coats import Coated
    from mildhusk.core.coating.grid import coat_grid, even_mesh, usual_edge_m
    from mildhusk.core.coating.landing import add_coat
    from mildhusk.core.coating.liquid import liquid_of
    from mildhusk.core.coating.motion import motion_of_coat
    from mildhusk.core.coating.turning import Pour
    from mildhusk.core.constants import MIXING_TIME_S, USUAL_UNEVENNESS
    from mildhusk.core.cure.model import CureSetup
    from mildhusk.core.geometry.mesh import face_frames

    began = perf_counter()
    density = asked.resin.density_cured_kg_m3
    # What stays in the cup does not come into the mould.
    in_mould_kg = asked.kg * (1.0 - asked.loss)
    film = in_mould_kg / density / float(face_frames(face)[2].sum())
    room = asked.room_k
    liquid = liquid_of(asked.resin, CureSetup(asked.kg, room, room, room, film), MIXING_TIME_S)

    def simulate(edge_m: float) -> Coated:
        mould = Coated.bare(coat_grid(even_mesh(face, edge_m), capped=given.capped))
        for number in range(1, asked.coats + 1):
            motion = motion_of_coat(asked.motion, number)
            mould = add_coat(mould, liquid, in_mould_kg, motion, pour=Pour(given.pour))
        return mould

    edge_m, band = usual_edge_m(face) if asked.edge_m is None else asked.edge_m, None
    if asked.band is None:
        mould = simulate(edge_m)
    else:
        mould, edge_m, band = settled_wall(simulate, asked.band)
    even = asked.coats * film * (1.0 - USUAL_UNEVENNESS)
    target = even if asked.target_m is None else asked.target_m
    wall = landed_wall(mould, density, target)
    told = {
        **plain(wall),
        "doubt": wall.doubt,
        "edge_m": edge_m,
        "band": band,
        "seconds": perf_counter() - began,
    }
    if given.ply is not None:
        _write_ply(given.ply, mould, target)
    return told, [*_lines(wall), *hints]


def _write_ply(path: Path, mould: "Coated", target_m: float) -> None:
    from mildhusk.documents.wall_files import wall_model, wall_ply

    content = wall_ply(wall_model(mould), target_m)
    try:
        path.write_bytes(content)
    except OSError as error:
        raise InputError(f"{path}: {error.strerror or error}.", "ply") from error


def _lines(wall: "LandedWall") -> list[str]:
    def mm(metres: float) -> str:
        return f"{metres * 1e3:.2f} mm"

    wet = wall.all_wet_s
    return [
        f"wall      mean {mm(wall.mean_m)}, 5 % under {mm(wall.p05_m)}, 1 % under "
        f"{mm(wall.p01_m)}, 5 % over {mm(wall.p95_m)}, most {mm(wall.max_m)}",
        f"thin      {wall.under_target * 100:.1f} % of the face under {mm(wall.target_m)}",
        f"cast      {wall.cast_kg * 1e3:.0f} g; spilt {wall.spilt_kg * 1e3:.1f} g; "
        f"in puddles {wall.pool_kg * 1e3:.1f} g; on the lid {wall.lid_kg * 1e3:.1f} g",
        f"wet       {'never everywhere' if wet is None else f'everywhere after {wet:.0f} s'}",
        wall.doubt,
    ]

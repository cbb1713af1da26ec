"""The command `husk coat`."""

import argparse
from dataclasses import dataclass
from pathlib import Path
from time import perf_counter
from typing import TYPE_CHECKING, Any

from mildhusk.core.errors import InputError
from mildhusk.core.materials.catalogue import shipped_resin

if TYPE_CHECKING:
    from mildhusk.core.coating.coats import Coated
    from mildhusk.core.coating.motion import Motion
    from mildhusk.core.geometry.mesh import Mesh
    from mildhusk.core.materials.casting_resin import CastingResin

Document = dict[str, Any]
_MOST_COATS = 20


def add_coat_words(coat: argparse.ArgumentParser) -> None:
    """Add the options of the command."""
    coat.add_argument("--resin", metavar="KEY")
    coat.add_argument("--grams", metavar="240", help="A and B, of each coat")
    coat.add_argument("--coats", type=int, default=1, metavar="4")
    coat.add_argument("--motion", default="machine", metavar="NAME|FILE.json")
    coat.add_argument("--list-motions", action="store_true", help="print their names")
    coat.add_argument("--capped", action="store_true", help="a lid closes every opening")
    coat.add_argument("--temp", default="23C", metavar="21C", help="of room, mould and parts")
    coat.add_argument("--edge", default="5mm", metavar="5mm", help="of the faces computed on")
    coat.add_argument(
        "--band", metavar="3%", help="instead of an edge: finer until the wall changes by less"
    )
    coat.add_argument("--target", metavar="3mm", help="wall that thin places are judged by")
    coat.add_argument("--ply", type=Path, metavar="OUT.ply", help="the wall on every corner")


@dataclass(frozen=True, slots=True)
class CoatAsked:
    """What the options say, read."""

    resin: "CastingResin"
    kg: float
    coats: int
    motion: "Motion"
    room_k: float
    edge_m: float
    band: float | None
    target_m: float | None


def list_motions() -> tuple[list[str], list[str]]:
    """Return the names of the motions, to print."""
    from mildhusk.core.coating.motion import motion_names

    names = list(motion_names())
    return names, names


def read_coat(given: argparse.Namespace) -> CoatAsked:
    """Read the options; a survey takes seconds, so this comes first."""
    from mildhusk.core.coating.motion import motion_named, read_motion
    from mildhusk.quantities import read_quantity

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
    return CoatAsked(
        resin=shipped_resin(given.resin),
        kg=read_quantity(given.grams, "kg", "g", name="The charge", field="grams"),
        coats=given.coats,
        motion=motion,
        room_k=read_quantity(given.temp, "K", "C", name="The temperature", field="temp"),
        edge_m=read_quantity(given.edge, "m", "mm", name="The edge", field="edge"),
        band=None
        if given.band is None
        else read_quantity(given.band, "1", "%", name="The band", field="band"),
        target_m=None
        if given.target is None
        else read_quantity(given.target, "m", "mm", name="The target", field="target"),
    )


def coat_of(given: argparse.Namespace, asked: CoatAsked, face: "Mesh", hints: list[str]) -> Any:
    """Simulate the coats on a casting face; returns the document and the lines to print."""
    from mildhusk.core.coating.band import settled_wall
    from mildhusk.core.coating.coats import Coated, add_coat
    from mildhusk.core.coating.document import coated_document
    from mildhusk.core.coating.grid import coat_grid, even_mesh
    from mildhusk.core.coating.liquid import liquid_of
    from mildhusk.core.constants import MIXING_TIME_S, USUAL_UNEVENNESS
    from mildhusk.core.cure.model import CureAsked
    from mildhusk.core.geometry.mesh import face_frames

    began = perf_counter()
    density = asked.resin.density_cured_kg_m3
    film = asked.kg / density / float(face_frames(face)[2].sum())
    room = asked.room_k
    liquid = liquid_of(asked.resin, CureAsked(asked.kg, room, room, room, film), MIXING_TIME_S)

    def simulate(edge_m: float) -> Coated:
        mould = Coated.bare(coat_grid(even_mesh(face, edge_m), capped=given.capped))
        for _ in range(asked.coats):
            mould = add_coat(mould, liquid, asked.kg, asked.motion)
        return mould

    edge_m, band = asked.edge_m, None
    if asked.band is None:
        mould = simulate(edge_m)
    else:
        mould, edge_m, band = settled_wall(simulate, asked.band)
    even = asked.coats * film * (1.0 - USUAL_UNEVENNESS)
    target = even if asked.target_m is None else asked.target_m
    document = {
        **coated_document(mould, density, target),
        "edge_m": edge_m,
        "band": band,
        "seconds": perf_counter() - began,
    }
    if given.ply is not None:
        _write_ply(given.ply, mould, target)
    return document, [*_lines(document), *hints]


def _write_ply(path: Path, mould: "Coated", target_m: float) -> None:
    from mildhusk.documents.wall_files import wall_model, wall_ply

    content = wall_ply(wall_model(mould), target_m)
    try:
        path.write_bytes(content)
    except OSError as error:
        raise InputError(f"{path}: {error.strerror or error}.", "ply") from error


def _lines(document: Document) -> list[str]:
    def mm(name: str) -> str:
        return f"{document[name] * 1e3:.2f} mm"

    lines = [
        f"wall      mean {mm('mean_m')}, 5 % under {mm('p05_m')}, 5 % over {mm('p95_m')}, "
        f"least {mm('min_m')}, most {mm('max_m')}",
        f"thin      {document['under_target'] * 100:.1f} % of the face under {mm('target_m')}",
        f"cast      {document['cast_kg'] * 1e3:.0f} g; spilt {document['spilt_kg'] * 1e3:.1f} g; "
        f"in puddles {document['pool_kg'] * 1e3:.1f} g; on the lid "
        f"{document['lid_kg'] * 1e3:.1f} g",
    ]
    wet = document["all_wet_s"]
    lines.append(
        f"wet       {'never everywhere' if wet is None else f'everywhere after {wet:.0f} s'}"
    )
    return [*lines, "An estimate: surface tension and inertia are left out."]

"""Strips, mats and paste for a shell: what is cut and mixed before the water is poured."""

import math
from dataclasses import dataclass

import numpy as np
import shapely

from mildhusk.core.amounts import Source
from mildhusk.core.checks import Bounds, check_bounds, within
from mildhusk.core.errors import PatternError
from mildhusk.core.geometry.mesh import Floats, Mesh, face_frames, middle_of
from mildhusk.core.geometry.sections import section_length, square_to
from mildhusk.core.materials.kinds import ShellMaterial
from mildhusk.core.mould.estimate import FLANGE_SHARE
from mildhusk.core.mould.locks import Split
from mildhusk.core.mould.shells import LaidAs, laid_as, mixed_needs
from mildhusk.core.patterns.flat import (
    CutRow,
    Drawn,
    Label,
    Layer,
    MixRow,
    Pattern,
    PatternKind,
    PatternPart,
    figure,
    flat_part,
)
from mildhusk.core.wording import Unit

SECONDS_A_STRIP = 25.0
"""Wetting, laying and smoothing one strip with one pair of hands (assumed). [s]"""


@dataclass(frozen=True, slots=True)
class StripsWish:
    """What is wanted of strips.

    Parameters
    ----------
    length_m, width_m : float
        Of one strip. [m]
    strip_plies : int
        Plies of one strip as it is folded.
    overlap : float
        Of each strip on the last, as a share of its width. [1]
    passes : int
        How often the whole shell is covered.
    working_s : float
        Until what was mixed or wetted can no longer be laid. [s]
    seam_step_m : float
        Along the seam a strip is folded lengthwise; its upper half ends so much before the lower
        one, and the next strip lies in that step. [m]
    """

    length_m: float = within(Bounds(0.05, 3.0, "A strip's length", "mm", 1e3), 0.3)
    width_m: float = within(Bounds(0.02, 1.0, "A strip's width", "mm", 1e3), 0.2)
    strip_plies: int = 3
    overlap: float = within(Bounds(0.0, 0.9, "The overlap", "%", 100.0), 0.5)
    passes: int = 1
    working_s: float = within(Bounds(60.0, 7200.0, "The working time", "min", 1 / 60.0), 480.0)
    seam_step_m: float = within(Bounds(0.0, 0.1, "The step of a seam's strip", "mm", 1e3), 0.02)

    def __post_init__(self) -> None:
        check_bounds(self, PatternError)
        for name, number in (("strip_plies", self.strip_plies), ("passes", self.passes)):
            if not 1 <= number <= 20:
                raise PatternError(f"Give 1 to 20 {name.replace('strip_', '')}.", name)
        if self.seam_step_m > self.length_m / 4.0:
            raise PatternError(
                f"A step of {self.seam_step_m * 1e3:.0f} mm leaves nothing of a strip of "
                f"{self.length_m * 1e3:.0f} mm; give at most {self.length_m * 250.0:.0f} mm.",
                "seam_step_m",
            )


def strips_for(area_m2: float, wish: StripsWish) -> int:
    """Return how many strips cover an area. [1]

    Notes
    -----
    Each strip covers its width less what lies on the last one:
    n = area passes / ((1 - overlap) length width), rounded up.
    """
    covers = (1.0 - wish.overlap) * wish.length_m * wish.width_m
    return math.ceil(area_m2 * wish.passes / covers - 1e-9)


def part_areas(rubber: Mesh, up: Floats, split: Split) -> Floats:
    """Return how much of the rubber's outside each part of a shell covers.

    Parameters
    ----------
    rubber : Mesh
        [m]
    up : (3,) float
        Away from the board.
    split : Split

    Returns
    -------
    (parts,) float
        [m^2]
    """
    centre, _, area = face_frames(rubber)
    flat = (centre - middle_of(rubber)) @ square_to(up).T
    turn = 2.0 * np.pi / split.parts
    away = np.arctan2(flat[:, 1], flat[:, 0]) - split.angle
    part = np.round(away / turn).astype(int) % split.parts
    return np.asarray(np.bincount(part, weights=area, minlength=split.parts), dtype=np.float64)


def strips(
    rubber: Mesh, up: Floats, split: Split, material: ShellMaterial, wish: StripsWish
) -> Pattern:
    """List the strips of a shell by part, its seams, and the batches they are laid in.

    Parameters
    ----------
    rubber : Mesh
        Outside of the rubber. [m]
    up : (3,) float
        Away from the board.
    split : Split
    material : ShellMaterial
    wish : StripsWish

    Returns
    -------
    Pattern
        All of it is cut to a length, or mixed; drawn is the strip of a seam, before it is folded.
    """
    areas = part_areas(rubber, up, split)
    whole = float(areas.sum())
    seam = section_length(split.lines)
    cut = laid_as(material)
    rows: list[CutRow] = []
    mixes: list[MixRow] = []
    batches = 0
    for number, area in enumerate(areas, start=1):
        part = "the hood" if split.parts == 1 else f"part {number}"
        # A part's flange is its share of the shell's.
        covered = float(area) + (FLANGE_SHARE / 2.0 * whole if split.parts > 1 else 0.0)
        if cut is not LaidAs.NOTHING:
            rows += _cut_rows(cut, part, covered, 2.0 * seam / split.parts, wish)
        laid = sum(one.count for one in rows if one.part == part) * SECONDS_A_STRIP
        # Paste and gypsum are spread as fast as the material is worked; strips as fast as laid.
        hands = max(laid, material.hours_per_m2 * 3600.0 * covered if not laid else 0.0)
        of_part = max(math.ceil(hands / wish.working_s - 1e-9), 1)
        batches += of_part
        mixes += [
            MixRow(one.what, part, of_part, one.amount / of_part, one.unit)
            for one in mixed_needs(covered, material)
        ]
    total = sum(one.count for one in rows)
    counted = (
        figure("strips", f"{str(cut).capitalize()}s to cut", float(total), Unit.COUNT),
        figure(
            "plies", "Plies everywhere", wish.passes * wish.strip_plies / (1.0 - wish.overlap),
            Unit.COUNT, f"plies of a {cut}, by what is not overlapped, by the passes",
        ),
        figure("cloth", "Material", total * wish.length_m * wish.width_m, Unit.AREA),
    )  # fmt: skip
    batched = figure(
        "batches", "Batches", float(batches), Unit.COUNT,
        "each as much as one pair of hands lays in the working time",
    )  # fmt: skip
    seamed = sum(one.count for one in rows if one.what.startswith(_seam_name(cut)))
    return Pattern(
        PatternKind.STRIPS,
        (_seam_strip(cut, wish),) if seamed else (),
        (
            *((counted[0], batched, *counted[1:]) if rows else (batched,)),
            figure("area", "Outside of the rubber", whole, Unit.AREA),
            figure("seam", "Part line", seam, Unit.LENGTH),
            figure("sets", "Each part sets", material.set_s, Unit.TIME, source=Source.TYPICAL),
        ),
        rows=tuple(rows),
        mixes=tuple(mixes),
        cautions=(
            "Plaster heats as it sets and burns skin; glass dust and resin harm lungs and eyes: "
            "gloves, mask, air. Follow the maker's data sheet. Plaster blocks drains: let its "
            "water stand and throw the solids away dry.",
        ),
    )


def seam_strips_for(seam_m: float, wish: StripsWish) -> int:
    """Return how many folded strips run along a seam, each in the step of the last. [1]"""
    return math.ceil(seam_m / (wish.length_m - wish.seam_step_m) - 1e-9)


def _cut_rows(
    cut: LaidAs, part: str, covered_m2: float, seam_m: float, wish: StripsWish
) -> list[CutRow]:
    """Return what is cut for one part; along its seams a strip is folded lengthwise."""
    size = (wish.length_m, wish.width_m)
    rows = [CutRow(str(cut), part, strips_for(covered_m2, wish), *size)]
    if seam_m > 0.0:
        rows.append(CutRow(_seam_name(cut), part, seam_strips_for(seam_m, wish), *size))
    return rows


def _seam_name(cut: LaidAs) -> str:
    return f"{cut} for the seam, folded lengthwise"


def _seam_strip(cut: LaidAs, wish: StripsWish) -> PatternPart:
    """Draw the strip of a seam before it is folded: its upper half steps back at both ends."""
    long, half, step = wish.length_m, wish.width_m / 2.0, wish.seam_step_m
    outline = shapely.Polygon(
        [(0.0, 0.0), (long, 0.0), (long, half), (long - step, half), (long - step, 2.0 * half),
         (step, 2.0 * half), (step, half), (0.0, half)]
    )  # fmt: skip
    fold = shapely.LineString([(step, half), (long - step, half)])
    labels = (
        Label((long / 2.0, 0.5 * half), "below: its fold lies on the part line"),
        Label((long / 2.0, 1.5 * half), "above: the next strip lies in the step"),
    )
    drawn = Drawn(((Layer.BEND, fold),), labels=labels)
    return flat_part(f"{cut} for the seam, unfolded", outline, drawn)

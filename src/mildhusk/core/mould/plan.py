"""The plan of a mould: rubber, shell, weight, clock and what to know before the first stroke."""

from dataclasses import dataclass, replace
from datetime import datetime
from decimal import ROUND_HALF_UP, Decimal

from mildhusk.core.equipment import Equipment
from mildhusk.core.errors import MouldError
from mildhusk.core.materials.kinds import Rubber, RubberWay, ShellMaterial
from mildhusk.core.mould.brushing import (
    BrushSchool,
    BrushWish,
    RubberCoat,
    brush_coats,
    brush_schools,
)
from mildhusk.core.mould.clock import (
    Step,
    Task,
    brushing_tasks,
    length_of,
    schedule,
)
from mildhusk.core.mould.estimate import MASTER_HOURS, MouldEstimate
from mildhusk.core.mould.handling import Hanging, Lift, handles, hang, lift
from mildhusk.core.mould.locks import Split
from mildhusk.core.mould.patches import PatchPlan, SoftPatch, plan_patch
from mildhusk.core.mould.poured import Blanket, blanket
from mildhusk.core.mould.shells import (
    FILLER_DENSITY_KG_M3,
    ShellBuild,
    compare_shells,
    cutting_tasks,
)
from mildhusk.core.mould.study import MouldStudy, MouldWay

POURED_LOSS = 0.03
"""Share of a poured rubber that stays in its bucket (assumed)."""
RELEASE_DRYING_S = 1800.0
"""Before the next part is made on a released seam (assumed; its data sheet stands above)."""
STRIP_S = 1800.0
"""Taking the shell off, peeling, washing, seating again (assumed)."""
POURING_S = 1200.0
"""Mixing and pouring a bucket of rubber (assumed)."""
CLAY_S_PER_M2 = 14_000.0
"""Rolling out a blanket of clay, laying and smoothing it (assumed)."""
BOX_S = 5400.0
"""Building and sealing a box (assumed)."""
_PATCH_S = 900.0
"""Mixing and brushing a soft place, before the coats go over it (assumed)."""
_LITTLE_FILLER = 0.05
"""So much of the rubber's volume is spread into hollows without much ado (assumed)."""
_LEAST_OF_WALL = 0.95
"""Rubber on the mould is no less than this share of area by wall (its curve is measured to 1 %)."""
_MOST_STRETCH = 9.0
"""No glove passes more, cut or not: the softest rubbers break at ten times their length (common
practice, no source)."""
_CENT = Decimal("0.01")


@dataclass(frozen=True, slots=True)
class MouldWish:
    """What is wanted of a mould.

    Parameters
    ----------
    rubber : Rubber
    shell : ShellMaterial
    way : MouldWay
    brush : BrushWish
        Its wall stands for the poured ways too.
    parts : int or None
        Of the shell; None takes the fewest that let go.
    clay_m3 : float or None
        Of the blanket that was taken off again; it stands before the measured face. [m^3]
    patches : tuple of SoftPatch
        Soft places of a brushed one, in the order they were studied.
    """

    rubber: Rubber
    shell: ShellMaterial
    way: MouldWay
    brush: BrushWish
    parts: int | None = None
    clay_m3: float | None = None
    patches: tuple[SoftPatch, ...] = ()

    def __post_init__(self) -> None:
        wanted = RubberWay.BRUSHED if self.way is MouldWay.BRUSH else RubberWay.POURED
        if wanted not in self.rubber.ways:
            raise MouldError(
                f"'{self.rubber.name}' is not {wanted}; choose another rubber or another way.",
                "way",
            )
        if self.patches and self.way is not MouldWay.BRUSH:
            raise MouldError(
                "Soft places are brushed on; a poured mould is of one rubber.", "patches"
            )


@dataclass(frozen=True, slots=True)
class MouldPlan:
    """A planned mould.

    Parameters
    ----------
    wish : MouldWish
    study : MouldStudy
    rubber_kg : float
        To mix, A and B and what goes into them. [kg]
    coats : tuple of RubberCoat
        Of a brushed one; empty else.
    patches : tuple of PatchPlan
        Its soft places, each of its own rubber, beside `rubber_kg`.
    schools : tuple of BrushSchool
    blanket : Blanket or None
    split : Split
        Of the shell as it is built.
    shells : tuple of ShellBuild
        Of every material, the lightest first.
    shell : ShellBuild
    filler_kg : float
    weight_kg : float
        Rubber, filler and shell as they are lifted, without a charge. [kg]
    lift : Lift
    hanging : Hanging
    handles : int
    cost, saved : Decimal
        Rubber and shell, without hours; what a box along the outline saves of rubber.
    steps : tuple of Step
    clock_s : float
    hands_s : float
    """

    wish: MouldWish
    study: MouldStudy
    rubber_kg: float
    coats: tuple[RubberCoat, ...]
    patches: tuple[PatchPlan, ...]
    schools: tuple[BrushSchool, ...]
    blanket: Blanket | None
    split: Split
    shells: tuple[ShellBuild, ...]
    shell: ShellBuild
    filler_kg: float
    weight_kg: float
    lift: Lift
    hanging: Hanging
    handles: int
    cost: Decimal
    saved: Decimal
    steps: tuple[Step, ...]
    clock_s: float
    hands_s: float

    @property
    def estimate(self) -> MouldEstimate:
        """What casts share of it."""
        return MouldEstimate(
            rubber_kg=self.rubber_kg,
            rubber_coats=len(self.coats),
            shell_m2=self.shell.area_m2,
            shell_kg=self.shell.kg,
            hours=self.hands_s / 3600.0,
            weight_kg=self.weight_kg,
        )


def plan_mould(
    study: MouldStudy,
    wish: MouldWish,
    *,
    shells: tuple[ShellMaterial, ...],
    rubber_price_per_kg: Decimal,
    begins: datetime,
    equipment: Equipment,
    patch_prices_per_kg: tuple[Decimal, ...] = (),
    charge_kg: float = 0.0,
) -> MouldPlan:
    """Plan a mould.

    Parameters
    ----------
    study : MouldStudy
        Of the same wall.
    wish : MouldWish
    shells : tuple of ShellMaterial
        To compare; the wanted one is among them or added.
    rubber_price_per_kg : Decimal
    begins : datetime
    equipment : Equipment
        When somebody works, and what the machine carries.
    patch_prices_per_kg : tuple of Decimal
        Of the rubber of each soft place.
    charge_kg : float
        Wet resin in it when it is lifted or turned. [kg]

    Returns
    -------
    MouldPlan

    Raises
    ------
    MouldError
        A study of another wall or of other soft places, or a wish that cannot be built.
    """
    wall = wish.brush.wall_m
    if abs(study.wall_m - wall) > 1e-9:
        raise MouldError("The piece was studied with another wall of rubber; study it again.")
    if len(study.patches) != len(wish.patches):
        raise MouldError("The piece was studied with other soft places; study it again.")
    patches = tuple(
        plan_patch(patch, size, wish.brush.loss)
        for patch, size in zip(wish.patches, study.patches, strict=True)
    )
    coats: tuple[RubberCoat, ...] = ()
    schools: tuple[BrushSchool, ...] = ()
    clay = None
    if wish.way is MouldWay.BRUSH:
        given = (study.curve, study.brushed_m2, study.slope, wish.rubber, wish.brush)
        soft = sum(size.volume_m3 for size in study.patches) / study.curve.volume(wall)
        coats, schools = brush_coats(*given, min(soft, 1.0)), brush_schools(*given)
        # Whole grams: what is shown adds up to what is shown.
        rubber_kg = round(sum(coat.total_kg for coat in coats), 6)
        on_mould = rubber_kg + sum(one.kg for one in patches)
        on_mould *= 1.0 - wish.brush.loss
    else:
        volume = study.block.outline_m3
        if wish.way is MouldWay.BLANKET:
            volume = wish.clay_m3 or study.curve.volume(wall)
            clay = blanket(volume, study.brushed_m2, wish.rubber)
        on_mould = volume * wish.rubber.density_kg_m3
        rubber_kg = on_mould / (1.0 - POURED_LOSS)
    _require_sense(study, wish, on_mould)
    split = chosen_split(study, wish.parts)
    # A block stands on its own: its box was the shell.
    needs_shell = wish.way is not MouldWay.BLOCK
    every = {one.key: one for one in (*shells, wish.shell)}
    compared = compare_shells(study.outside_m2, split.parts, tuple(every.values()))
    shell = next(one for one in compared if one.key == wish.shell.key)
    filler = split.filler_m3 * FILLER_DENSITY_KG_M3 if needs_shell else 0.0
    shell_kg = shell.kg if needs_shell else 0.0
    weight = on_mould + filler + shell_kg
    parts = (
        (on_mould + filler, study.rubber_centre),
        (shell_kg, study.shell_centre),
        (charge_kg, study.shell_centre),
    )
    tasks = _tasks(study, wish, (coats, patches), clay, shell if needs_shell else None, split)
    steps = schedule(tasks, begins, equipment)
    price = Decimal(repr(rubber_kg)) * rubber_price_per_kg
    prices = patch_prices_per_kg or (rubber_price_per_kg,) * len(patches)
    for one, of_it in zip(patches, prices, strict=True):
        price += Decimal(repr(one.kg)) * of_it
    saved_kg = Decimal(repr(study.block.saved_m3 * wish.rubber.density_kg_m3))
    material = Decimal(repr(shell.cost)) if needs_shell else Decimal(0)
    return MouldPlan(
        wish=wish,
        study=study,
        rubber_kg=rubber_kg,
        coats=coats,
        patches=patches,
        schools=schools,
        blanket=clay,
        split=split,
        shells=compared if needs_shell else (),
        shell=shell,
        filler_kg=filler,
        weight_kg=weight,
        lift=lift(weight + charge_kg, study.width_m),
        hanging=hang(parts, study.shell_centre, study.up, equipment.machine_limit_kg),
        handles=handles(weight + charge_kg),
        cost=(price + material).quantize(_CENT, ROUND_HALF_UP),
        saved=(saved_kg * rubber_price_per_kg).quantize(_CENT, ROUND_HALF_UP),
        steps=steps,
        clock_s=length_of(steps),
        hands_s=sum(task.hands_s for task in tasks),
    )


def _require_sense(study: MouldStudy, wish: MouldWish, on_mould_kg: float) -> None:
    """Refuse what no mould is: then the file does not show where the piece is open.

    Raises
    ------
    MouldError
        Less rubber than its wall takes, a cut that is not on the piece, a stretch beyond reason.
    """
    filled = sum(one.volume_m3 for one in study.filled)
    density, mend = wish.rubber.density_kg_m3, "Look at the piece's page what of it is counted."
    least_kg = (study.brushed_m2 * study.wall_m - filled) * density
    if on_mould_kg < _LEAST_OF_WALL * least_kg:
        raise MouldError(
            f"{on_mould_kg:.2f} kg of rubber cannot cover {study.brushed_m2 * 1e4:,.0f} cm² with "
            f"{study.wall_m * 1e3:g} mm: that takes {least_kg:.2f} kg. {mend}",
            "piece",
        )
    peel = study.peel
    high = max(one.height_m for one in peel.stations)
    if not 0.0 <= peel.cut_m <= high:
        raise MouldError(
            f"The cut would run {peel.cut_m * 1e3:,.0f} mm up a piece that is {high * 1e3:,.0f} mm "
            f"high. {mend}",
            "piece",
        )
    if wish.way is not MouldWay.BLOCK and peel.needed > _MOST_STRETCH:
        first = peel.stations[0].girth_m
        raise MouldError(
            f"The glove would have to stretch by {peel.needed * 100:,.0f} %: it opens where the "
            f"piece is {first * 1e3:,.0f} mm round, and has to pass "
            f"{first * (1.0 + peel.needed) * 1e3:,.0f} mm. Say where the piece is open: cut it at "
            "its rim, or mark what stands on the board as left out.",
            "piece",
        )


def chosen_split(study: MouldStudy, parts: int | None) -> Split:
    """Return the split of a shell in so many parts; None takes the fewest that let go.

    Raises
    ------
    MouldError
        A number of parts that was not studied.
    """
    if parts is not None:
        for split in study.splits:
            if split.parts == parts:
                return split
        raise MouldError(f"A shell in {parts} parts was not studied; give 1 to 4.", "parts")
    most = _LITTLE_FILLER * study.curve.volume(study.wall_m)
    for split in study.splits:
        if split.filler_m3 <= most:
            return split
    return min(study.splits, key=lambda split: (split.filler_m3, split.parts))


def _tasks(
    study: MouldStudy,
    wish: MouldWish,
    brushed: tuple[tuple[RubberCoat, ...], tuple[PatchPlan, ...]],
    clay: Blanket | None,
    shell: ShellBuild | None,
    split: Split,
) -> tuple[Task, ...]:
    coats, patches = brushed
    tasks = [Task("master", "Fix, close and seal the master", MASTER_HOURS * 3600.0)]
    shell_tasks: list[Task] = []
    if shell is not None:
        each = shell.hours * 3600.0 / split.parts
        set_s = shell.set_s / split.parts
        for part in range(1, split.parts + 1):
            wait = 0.0 if part == 1 else set_s + RELEASE_DRYING_S
            meanwhile = "" if part == 1 else "the seam's release has to dry before the next part"
            title = "Shell" if split.parts == 1 else f"Shell, part {part} of {split.parts}"
            shell_tasks.append(Task(f"shell-{part}", title, each, wait, meanwhile=meanwhile))
    cuts = cutting_tasks(split.parts, shell.area_m2, wish.shell) if shell is not None else ()
    cured = wish.rubber.demould_s
    if wish.way is MouldWay.BRUSH:
        tasks += [
            Task(f"soft-{at}", f"Soft place: {one.patch.name}", _PATCH_S)
            for at, one in enumerate(patches, start=1)
        ]
        tasks += brushing_tasks(coats)
        # The shell goes on cured rubber; what it is built with is cut while the last coat cures.
        first, last_coat = shell_tasks[0], tasks[-1].id
        shell_tasks[0] = replace(
            first, from_s=cured, after=last_coat if cuts else "", meanwhile="mark the part lines"
        )
        tasks += [*cuts, *shell_tasks]
        last_wait = shell.set_s / split.parts if shell else 0.0
    elif clay is not None:
        tasks.append(Task("clay", "Blanket of clay", CLAY_S_PER_M2 * study.brushed_m2))
        tasks += [*cuts, *shell_tasks]
        wait = shell.set_s / split.parts if shell else 0.0
        tasks.append(Task("unpack", "Take the clay out, seal, gasket, strap", 3600.0, wait))
        tasks.append(Task("pour", "Pour the rubber", POURING_S + clay.fill_s))
        last_wait = cured
    else:
        tasks.append(Task("box", "Build the box", BOX_S))
        tasks.append(Task("pour", "Pour the rubber", POURING_S))
        last_wait = cured
    meanwhile = "weigh out the release, lay the cups ready"
    tasks.append(Task("strip", "Strip, wash, seat again", STRIP_S, last_wait, meanwhile=meanwhile))
    return tuple(tasks)

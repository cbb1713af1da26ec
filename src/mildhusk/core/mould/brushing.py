"""Rubber brushed on in coats: how many, how thick, what goes into each."""

import math
from dataclasses import dataclass, replace

import numpy as np

from mildhusk.core.checks import require_between
from mildhusk.core.constants import GRAVITY_M_S2
from mildhusk.core.errors import MouldError
from mildhusk.core.geometry.curve import VolumeCurve
from mildhusk.core.geometry.mesh import Mesh, face_frames
from mildhusk.core.materials.kinds import Rubber
from mildhusk.core.mould.estimate import BRUSHING_HOURS_PER_M2, RUBBER_LOSS, require_wall

NEAT_YIELD_PA = 14.0
"""Yield stress of a fresh brush-on rubber without thickener (assumed)."""
YIELD_PER_THICKENER_PA = 4500.0
"""What a thickener adds, per share of the mix: 1 % adds 45 Pa (assumed)."""
LEAST_THICKENER, MOST_THICKENER = 0.005, 0.03
"""Dose of a thickener (common practice, no source)."""
PRINT_THINNER = 0.10
"""Of A and B together, in a thinned print coat (common practice, no source)."""
TINT = 0.002
"""Of A and B together; every second coat is tinted, so that missed places show (assumed)."""
MIXING_S = 300.0
"""Weighing, stirring and scraping one batch of rubber (assumed)."""
GAUZE_OVERLAP = 1.15
"""Gauze to cut, for each area to cover (assumed)."""
GAUZE_S_PER_M2 = 2400.0
"""Laying gauze into a wet coat and dabbing it through (assumed)."""
_SUM_WITHIN = 0.02
"""Coats of one's own may come so near to the wall; they are stretched to meet it."""
KEY_M3 = 2e-6
"""A registration key: half a ball of 20 mm (assumed)."""
STEP_KG = 0.001
"""Rubber is weighed to a gram."""


def sag_limit(yield_pa: float, density_kg_m3: float, slope: float) -> float:
    """Thickest coat that stays where it is brushed.

    Parameters
    ----------
    yield_pa : float
        Yield stress. [Pa]
    density_kg_m3 : float
        [kg/m^3]
    slope : float
        Of the face against the level, 0 to pi. [rad]

    Returns
    -------
    float
        [m]; infinite on the level.

    Raises
    ------
    MouldError
        A yield stress or a density that is not positive, a slope beyond overhead.

    Notes
    -----
    A Bingham body: the shear at the wall, rho g h sin(slope), is at most the yield stress.

    References
    ----------
    E. C. Bingham, Fluidity and Plasticity, 1922 (from memory).
    """
    if not (yield_pa > 0.0 and density_kg_m3 > 0.0 and 0.0 <= slope <= math.pi):
        raise MouldError("Sag wants a yield stress and a density above 0 and a slope up to 180°.")
    pull = density_kg_m3 * GRAVITY_M_S2 * math.sin(slope)
    return math.inf if pull < 1e-9 else yield_pa / pull


def steepest_slope(face: Mesh, up: tuple[float, float, float]) -> float:
    """Return the slope that only a hundredth of a face exceeds, at most upright. [rad]

    Overhanging faces pull no harder along themselves than an upright one does.
    """
    _, normal, area = face_frames(face)
    sine = np.sqrt(np.clip(1.0 - (normal @ np.array(up)) ** 2, 0.0, 1.0))
    order = np.argsort(sine)
    share = np.cumsum(area[order]) / area.sum()
    return float(np.arcsin(sine[order][np.searchsorted(share, 0.99).clip(0, len(order) - 1)]))


@dataclass(frozen=True, slots=True)
class BrushWish:
    """How rubber is to be brushed on.

    Parameters
    ----------
    wall_m : float
        Wanted all over. [m]
    coat_m : float
        Wanted of each coat after the print coat. [m]
    print_coat_m : float
        Wanted of the print coat. [m]
    thinned : bool
        The print coat gets thinner.
    thickened_from : int
        First coat with thickener; 0 for none.
    thickener : float
        Its dose, of A and B together. [1]
    keys : int
        Registration keys stuck on.
    gauze_in : int
        Coat that gauze is laid into; 0 for none.
    coats_m : tuple of float
        The maker's own coats, the print coat first, instead of even ones; empty for even ones. [m]
    loss : float
        What stays on board, brush and cup, of what is mixed. [1]

    Raises
    ------
    MouldError
        A value out of range, own coats that do not come to the wall.
    """

    wall_m: float
    coat_m: float = 0.003
    print_coat_m: float = 0.001
    thinned: bool = False
    thickened_from: int = 2
    thickener: float = 0.01
    keys: int = 8
    gauze_in: int = 0
    coats_m: tuple[float, ...] = ()
    loss: float = RUBBER_LOSS

    def __post_init__(self) -> None:
        require_wall(self.wall_m)
        for value, low, high, name, field in (
            (self.coat_m, 0.0005, 0.008, "thickness of a coat", "coat_m"),
            (self.print_coat_m, 0.0003, 0.003, "print coat", "print_coat_m"),
        ):
            require_between(
                value,
                low,
                high,
                name=f"The {name}",
                field=field,
                error=MouldError,
                shown_in="mm",
                scale=1e3,
            )
        if self.thickened_from:
            require_between(
                self.thickener,
                LEAST_THICKENER,
                MOST_THICKENER,
                name="The thickener",
                field="thickener",
                error=MouldError,
                shown_in="%",
                scale=100.0,
            )
        require_between(
            self.loss, 0.0, 0.5, name="The loss", field="loss", error=MouldError,
            shown_in="%", scale=100.0,
        )  # fmt: skip
        require_between(
            self.keys, 0, 200, name="The number of keys", field="keys", error=MouldError
        )
        if self.coats_m:
            self._check_own()

    def _check_own(self) -> None:
        for number, own in enumerate(self.coats_m, start=1):
            require_between(
                own,
                0.0003,
                0.008,
                name=f"Coat {number}",
                field="coats_m",
                error=MouldError,
                shown_in="mm",
                scale=1e3,
            )
        whole = sum(self.coats_m)
        if abs(whole - self.wall_m) > _SUM_WITHIN * self.wall_m:
            raise MouldError(
                f"Your coats come to {whole * 1e3:.1f} mm and the wall is "
                f"{self.wall_m * 1e3:.1f} mm; change a coat, or the wall.",
                "coats_m",
            )


@dataclass(frozen=True, slots=True)
class RubberCoat:
    """One brushed coat.

    Parameters
    ----------
    number : int
    from_m, to_m : float
        The wall before and after it. [m]
    sag_m : float
        What would stay on the steepest place. [m]
    a_kg, b_kg, thinner_kg, thickener_kg, tint_kg : float
        To weigh, in whole grams. [kg]
    gauze_m2 : float
        To cut and lay into it. [m^2]
    hands_s : float
        Mixing and brushing. [s]
    batches : int
        In how many cups, so that each is brushed out within its pot life.
    next_from_s, next_until_s : float
        When the next may go on, from the first contact of A and B of this one. [s]
    """

    number: int
    from_m: float
    to_m: float
    sag_m: float
    a_kg: float
    b_kg: float
    thinner_kg: float
    thickener_kg: float
    tint_kg: float
    gauze_m2: float
    hands_s: float
    batches: int
    next_from_s: float
    next_until_s: float

    @property
    def thickness_m(self) -> float:
        """What it adds. [m]"""
        return self.to_m - self.from_m

    @property
    def total_kg(self) -> float:
        """All that is weighed for it. [kg]"""
        weighed = (self.a_kg, self.b_kg, self.thinner_kg, self.thickener_kg, self.tint_kg)
        return round(sum(weighed), 6)


def brush_coats(
    curve: VolumeCurve,
    area_m2: float,
    slope: float,
    rubber: Rubber,
    wish: BrushWish,
    soft_share: float = 0.0,
) -> tuple[RubberCoat, ...]:
    """Plan the coats of a brushed rubber.

    Parameters
    ----------
    curve : VolumeCurve
        Of the outside of the piece.
    area_m2 : float
        To brush. [m^2]
    slope : float
        Of the steepest place. [rad]
    rubber : Rubber
    wish : BrushWish
    soft_share : float
        Of the wall, that soft places take in a rubber of their own. [1]

    Returns
    -------
    tuple of RubberCoat
        The maker's own coats; else those after the first are equally thick, and no thicker than
        wanted nor than they hold.

    Raises
    ------
    MouldError
        The rubber is not brushed on, or takes no thickener; gauze in a coat that there is not.
    """
    if wish.thickened_from and not rubber.takes_thickener:
        raise MouldError(f"'{rubber.name}' takes no thickener; brush it without.", "thickener")
    neat = sag_limit(NEAT_YIELD_PA, rubber.density_kg_m3, slope)
    paste = sag_limit(
        NEAT_YIELD_PA + YIELD_PER_THICKENER_PA * wish.thickener, rubber.density_kg_m3, slope
    )
    ends = _own_ends(wish) if wish.coats_m else _ends(wish, neat, paste)
    if wish.gauze_in > len(ends):
        raise MouldError(
            f"There are {len(ends)} coats; lay the gauze into one of them.", "gauze_in"
        )
    coats = []
    before = 0.0
    for number, end in enumerate(ends, start=1):
        thick = wish.thickened_from and number >= wish.thickened_from
        mixed = (curve.volume(end) - curve.volume(before)) * rubber.density_kg_m3
        mixed *= 1.0 - soft_share
        if number == min(2, len(ends)):
            mixed += wish.keys * KEY_M3 * rubber.density_kg_m3
        coats.append(
            _coat(rubber, wish, number, (before, end), mixed / (1.0 - wish.loss), area_m2,
                  paste if thick else neat)
        )  # fmt: skip
        before = end
    return tuple(coats)


def _own_ends(wish: BrushWish) -> list[float]:
    """Return the wall after each of the maker's own coats, the last at the wall itself."""
    scale = wish.wall_m / sum(wish.coats_m)
    return [*(np.cumsum(wish.coats_m)[:-1] * scale).tolist(), wish.wall_m]


def _ends(wish: BrushWish, neat: float, paste: float) -> list[float]:
    """Return the wall after each coat."""
    ends = [min(wish.print_coat_m, neat, wish.wall_m)]
    number = 2
    while wish.wall_m - ends[-1] > 1e-9:
        thick = bool(wish.thickened_from) and number >= wish.thickened_from
        most = min(wish.coat_m, paste if thick else neat)
        # From where thickness no longer changes, the rest is divided evenly.
        if thick or not wish.thickened_from:
            left = wish.wall_m - ends[-1]
            count = math.ceil(left / most - 1e-6)
            start = ends[-1]
            ends += [start + left * k / count for k in range(1, count + 1)]
            break
        ends.append(min(ends[-1] + most, wish.wall_m))
        number += 1
    return ends


def _coat(
    rubber: Rubber,
    wish: BrushWish,
    number: int,
    wall: tuple[float, float],
    mix_kg: float,
    area_m2: float,
    sag_m: float,
) -> RubberCoat:
    share_a = rubber.parts_a / (rubber.parts_a + rubber.parts_b)
    a_kg = grams_up(mix_kg * share_a)
    # B follows what A came to, so that the ratio stays the data sheet's.
    b_kg = _grams(a_kg * rubber.parts_b / rubber.parts_a)
    both = a_kg + b_kg
    thick = bool(wish.thickened_from) and number >= wish.thickened_from
    brushing = 3600.0 * BRUSHING_HOURS_PER_M2 * area_m2
    gauze_m2 = GAUZE_OVERLAP * area_m2 if number == wish.gauze_in else 0.0
    # A cup lasts as long as its rubber can be worked, less what mixing it took.
    room = max(rubber.pot_life_s - MIXING_S, 0.2 * rubber.pot_life_s)
    batches = max(1, math.ceil(brushing / room - 1e-6))
    return RubberCoat(
        number=number,
        from_m=wall[0],
        to_m=wall[1],
        sag_m=sag_m,
        a_kg=a_kg,
        b_kg=b_kg,
        thinner_kg=_grams(PRINT_THINNER * both) if wish.thinned and number == 1 else 0.0,
        thickener_kg=_grams(wish.thickener * both) if thick else 0.0,
        tint_kg=_grams(TINT * both) if number % 2 == 0 else 0.0,
        gauze_m2=gauze_m2,
        hands_s=batches * MIXING_S + brushing + GAUZE_S_PER_M2 * gauze_m2,
        batches=batches,
        next_from_s=rubber.recoat_from_s,
        next_until_s=rubber.recoat_until_s,
    )


def _grams(kg: float) -> float:
    return round(round(kg / STEP_KG) * STEP_KG, 6)


def grams_up(kg: float) -> float:
    """Return a weight rounded up to whole grams. [kg]"""
    return round(math.ceil(kg / STEP_KG - 1e-6) * STEP_KG, 6)


@dataclass(frozen=True, slots=True)
class BrushSchool:
    """A way of brushing that makers swear by, as it comes out here."""

    name: str
    says: str
    coats: int
    rubber_kg: float
    hands_s: float
    wait_s: float


def brush_schools(
    curve: VolumeCurve, area_m2: float, slope: float, rubber: Rubber, wish: BrushWish
) -> tuple[BrushSchool, ...]:
    """Set few thick coats beside many thin ones, with their grams and hours.

    Parameters
    ----------
    curve : VolumeCurve
        Of the face, outwards.
    area_m2 : float
        [m^2]
    slope : float
        Of the steepest place, sine of its angle. [1]
    rubber : Rubber
    wish : BrushWish

    Returns
    -------
    tuple of BrushSchool
    """
    even = replace(wish, coats_m=(), gauze_in=0)
    few = replace(even, coat_m=0.004, thickener=MOST_THICKENER)
    many = replace(even, coat_m=0.0015, thickener=LEAST_THICKENER)
    if not rubber.takes_thickener:
        few, many = (replace(one, thickened_from=0) for one in (few, many))
    made = []
    for name, says, one in (
        ("few thick coats", "less waiting; a paste bridges undercuts and may trap air", few),
        ("many thin coats", "no sag, no trapped air; every window has to be met", many),
    ):
        coats = brush_coats(curve, area_m2, slope, rubber, one)
        made.append(
            BrushSchool(
                name,
                says,
                len(coats),
                sum(coat.total_kg for coat in coats),
                sum(coat.hands_s for coat in coats),
                sum(coat.next_from_s for coat in coats[:-1]),
            )
        )
    return tuple(made)


def check_edited(coats: tuple[RubberCoat, ...], edited_kg: tuple[float, ...]) -> None:
    """Refuse hand-edited coats that do not come to what the wall takes.

    Raises
    ------
    MouldError
        Another number of coats, or a sum that is more than 2 % off.
    """
    needed = sum(coat.total_kg for coat in coats)
    given = sum(edited_kg)
    if len(edited_kg) != len(coats):
        raise MouldError(
            f"{len(edited_kg)} coats were given, {len(coats)} are planned; give one weight each.",
            "coats",
        )
    if abs(given - needed) > 0.02 * needed:
        raise MouldError(
            f"The coats come to {given * 1e3:,.0f} g and the wall takes {needed * 1e3:,.0f} g; "
            "change a coat, or the wall.",
            "coats",
        )

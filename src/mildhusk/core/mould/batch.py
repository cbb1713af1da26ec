"""A batch of mould rubber as it is weighed: catalyst and its fast part, thinner, thickener, air."""

from dataclasses import dataclass

from mildhusk.core.checks import require_between
from mildhusk.core.errors import ConditionError
from mildhusk.core.materials.kinds import Rubber, RubberCure
from mildhusk.core.mixing.split import require_step, require_weight, up_to_step
from mildhusk.core.mould.catalyst import catalysed, usual_catalyst

FROTHS_TO = 4.0
"""In vacuum a mix rises to about so many times its volume (common practice, no source). [1]"""
AFTER_FALL_S = (60.0, 90.0)
"""How long vacuum is kept once the froth has fallen (common practice, no source). [s]"""
THREAD_M3_S = 4e-6
"""A thread so thin that its bubbles break, from as high as an arm reaches (assumed). [m^3/s]"""


@dataclass(frozen=True, slots=True)
class RubberDose:
    """What goes into part A of a rubber.

    Parameters
    ----------
    share : float
        Part B, or catalyst, of A by weight. [1]
    fast_share : float
        Of a catalyst, the part that is fast. [1]
    thinner, thickener : float
        Of A and B together. [1]

    Raises
    ------
    ConditionError
        A thinner or a thickener out of range.
    """

    share: float
    fast_share: float = 0.0
    thinner: float = 0.0
    thickener: float = 0.0

    def __post_init__(self) -> None:
        for field, most in (("thinner", 0.3), ("thickener", 0.1)):
            require_between(
                getattr(self, field), 0.0, most, name=f"The {field}", field=field,
                error=ConditionError, shown_in="%", scale=100.0,
            )  # fmt: skip


@dataclass(frozen=True, slots=True)
class RubberBatch:
    """A weighed batch.

    Parameters
    ----------
    a_kg, b_kg, fast_kg, thinner_kg, thickener_kg : float
        In whole steps of the scale. [kg]
    pot_life_s, cure_s : float
        [s]
    life : float
        Of the mould, as a share of its usual one. [1]
    vessel_m3 : float
        Of a vacuum vessel in which the froth stays. [m^3]
    thread_s : float
        Poured as a thin thread from high up. [s]
    """

    a_kg: float
    b_kg: float
    fast_kg: float
    thinner_kg: float
    thickener_kg: float
    pot_life_s: float
    cure_s: float
    life: float
    vessel_m3: float
    thread_s: float

    @property
    def total_kg(self) -> float:
        """All that is weighed. [kg]"""
        return self.a_kg + self.b_kg + self.fast_kg + self.thinner_kg + self.thickener_kg

    @property
    def thread_in_time(self) -> bool:
        """Whether a thin thread is poured within half of the pot life, so that it levels."""
        return self.thread_s <= 0.5 * self.pot_life_s


def usual_dose(rubber: Rubber) -> RubberDose:
    """Return the dose of a rubber's data sheet."""
    return RubberDose(rubber.parts_b / rubber.parts_a)


def rubber_batch(
    rubber: Rubber, wanted_kg: float, dose: RubberDose, scale_step_kg: float, room_k: float
) -> RubberBatch:
    """Work out a batch of rubber.

    Parameters
    ----------
    rubber : Rubber
    wanted_kg : float
        Least weight of everything together. [kg]
    dose : RubberDose
    scale_step_kg : float
        Last digit of the scale. [kg]
    room_k : float
        [K]

    Returns
    -------
    RubberBatch

    Raises
    ------
    ConditionError
        A weight that nobody mixes, a scale that there is not, a catalyst for a rubber that cures by
        parts, a thickener for one that takes none, a batch whose smallest part the scale cannot
        read to 1 %.
    MouldError
        A dose or a room beyond the catalyst's sheet.
    """
    require_weight(wanted_kg, "The charge", "grams")
    require_step(scale_step_kg)
    by_catalyst = rubber.cure is RubberCure.CONDENSATION
    usual = usual_dose(rubber)
    if not by_catalyst and (dose.share != usual.share or dose.fast_share):
        raise ConditionError(
            f"'{rubber.name}' cures by equal molecules of its two parts: its ratio is "
            f"{rubber.parts_a:g}:{rubber.parts_b:g} and no other.",
            "ratio",
        )
    if dose.thickener and not rubber.takes_thickener:
        raise ConditionError(f"'{rubber.name}' takes no thickener; leave it out.", "thickener")
    sheet = usual_catalyst()
    if by_catalyst:
        times = catalysed(sheet, dose.share, dose.fast_share, room_k)
        usual_times = catalysed(sheet, usual.share, 0.0, sheet.temperature_k)
        # The class's sheet says how much faster; the rubber's own says how fast.
        pot_life_s = rubber.pot_life_s * times.pot_life_s / usual_times.pot_life_s
        cure_s = rubber.demould_s * times.cure_s / usual_times.cure_s
        life = times.life
    else:
        # What a room changes of the class is common to both (rule of thumb, common practice).
        warmed = catalysed(sheet, 0.10, 0.0, room_k).pot_life_s
        slower = warmed / catalysed(sheet, 0.10, 0.0, sheet.temperature_k).pot_life_s
        pot_life_s, cure_s, life = slower * rubber.pot_life_s, slower * rubber.demould_s, 1.0
    a_kg = up_to_step(
        wanted_kg / ((1.0 + dose.share) * (1.0 + dose.thinner + dose.thickener)), scale_step_kg
    )
    return batch_from_a(rubber, a_kg, dose, scale_step_kg, (pot_life_s, cure_s, life))


def batch_from_a(
    rubber: Rubber,
    a_kg: float,
    dose: RubberDose,
    scale_step_kg: float,
    times: tuple[float, float, float],
) -> RubberBatch:
    """Work out a batch from what is in the cup of part A.

    Parameters
    ----------
    rubber : Rubber
    a_kg : float
        [kg]
    dose : RubberDose
    scale_step_kg : float
        Last digit of the scale. [kg]
    times : tuple of 3 floats
        Pot life [s], cure [s], and the mould's life over its usual one [1].

    Returns
    -------
    RubberBatch

    Raises
    ------
    ConditionError
        A batch whose smallest part the scale cannot read to 1 %.
    """

    require_weight(a_kg, "Part A", "poured")

    def step(kg: float) -> float:
        return round(kg / scale_step_kg) * scale_step_kg

    both_kg = a_kg * (1.0 + dose.share)
    parts = {
        "b_kg": a_kg * dose.share * (1.0 - dose.fast_share),
        "fast_kg": a_kg * dose.share * dose.fast_share,
        "thinner_kg": dose.thinner * both_kg,
        "thickener_kg": dose.thickener * both_kg,
    }
    least = min(kg for kg in parts.values() if kg > 0.0)
    if least < 50.0 * scale_step_kg:
        grow = 50.0 * scale_step_kg / least
        total = (a_kg + sum(parts.values())) * grow
        raise ConditionError(
            f"Its smallest part is {least * 1e3:.2g} g, which a scale that shows "
            f"{scale_step_kg * 1e3:g} g does not read to 1 %; mix at least {total * 1e3:.0f} g, or "
            "take a finer scale.",
            "grams",
        )
    weighed = {name: step(kg) for name, kg in parts.items()}
    total_kg = a_kg + sum(weighed.values())
    volume_m3 = total_kg / rubber.density_kg_m3
    pot_life_s, cure_s, life = times
    return RubberBatch(
        a_kg=a_kg,
        **weighed,
        pot_life_s=pot_life_s,
        cure_s=cure_s,
        life=life,
        vessel_m3=FROTHS_TO * volume_m3,
        thread_s=volume_m3 / THREAD_M3_S,
    )

"""The cure of a resin on the shelf: its times, curves, and what little changes do to them."""

from dataclasses import dataclass
from uuid import UUID

from mildhusk.core.cure.asking import Sensitivity, post_cure_s, puddle_peak, retimed, sensitivity
from mildhusk.core.cure.model import Cure, CureAsked, cure
from mildhusk.core.materials.casting_resin import CastingResin
from mildhusk.services.desk import Desk
from mildhusk.services.shelf import find_material, resin_of


@dataclass(frozen=True, slots=True)
class CureFound:
    """A cure, and more that is asked of it.

    Parameters
    ----------
    resin : CastingResin
    cure : Cure
    sensitivity : Sensitivity
    puddle_peak_k : float
        [K]
    post_cure_s : float
        From leaving the mould to full strength, at the temperature that was asked. [s]
    """

    resin: CastingResin
    cure: Cure
    sensitivity: Sensitivity
    puddle_peak_k: float
    post_cure_s: float


@dataclass(frozen=True, slots=True)
class CureQuestionAsked:
    """A mix, the depth of a puddle of it, where the cast stands afterwards, learned times."""

    mix: CureAsked
    puddle_m: float
    post_cure_k: float
    time_factor: float


def cure_of(desk: Desk, material_id: UUID, asked: CureQuestionAsked) -> CureFound:
    """Return the cure of a resin on the shelf."""
    resin = retimed(resin_of(find_material(desk, material_id)), asked.time_factor)
    return CureFound(
        resin,
        cure(resin, asked.mix),
        sensitivity(resin, asked.mix),
        puddle_peak(resin, asked.mix, asked.puddle_m),
        post_cure_s(resin, asked.post_cure_k),
    )

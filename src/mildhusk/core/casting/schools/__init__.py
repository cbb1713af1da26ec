"""The schools: how makers divide what is poured into coats, behind one interface."""

from mildhusk.core.casting.schools.base import School
from mildhusk.core.casting.schools.filled import FoamBacked, PowderFaced
from mildhusk.core.casting.schools.melted import Melted
from mildhusk.core.casting.schools.pasted import Pasted
from mildhusk.core.casting.schools.rolled import Detail, Equal, FixedVolume, LongRoll, Machine
from mildhusk.core.casting.wish import CoatSchool

SCHOOLS: dict[CoatSchool, School] = {
    school.key: school
    for school in (
        Equal(),
        FixedVolume(),
        Detail(),
        Machine(),
        LongRoll(),
        Pasted(),
        FoamBacked(),
        PowderFaced(),
        Melted(),
    )
}
"""Every school, in the order in which they are told."""

__all__ = ["SCHOOLS", "School"]

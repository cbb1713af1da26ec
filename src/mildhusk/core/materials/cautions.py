"""The usual cautions, by operation and by what is at hand, from one data file."""

import json
from dataclasses import dataclass
from enum import StrEnum
from functools import cache
from importlib.resources import files

from mildhusk.core.materials.catalogue import AnyMaterial
from mildhusk.core.materials.traits import Trait

USUAL_CAUTION = (
    "Read the maker's safety data sheet, follow local codes, and ask a licensed practitioner where "
    "one is required."
)
"""Stands under every list of cautions."""


_TOO_DAMP = 0.6
"""Relative humidity above which a urethane is said to foam (common practice, no source). [1]"""


def too_damp_from(material: AnyMaterial) -> float | None:
    """Return the relative humidity from which the air spoils a material; None where none does."""
    return _TOO_DAMP if Trait.URETHANE in material.traits else None


class Operation(StrEnum):
    """What hands do, in the order of the work."""

    RUBBER = "rubber"
    SHELL = "shell"
    MEASURE = "measure"
    MIX = "mix"
    ROLL = "roll"
    DEMOULD = "demould"
    TRIM = "trim"
    CLEAN = "clean"
    PAINT = "paint"
    BOND = "bond"


CASTING = (
    Operation.MEASURE,
    Operation.MIX,
    Operation.ROLL,
    Operation.DEMOULD,
    Operation.TRIM,
    Operation.CLEAN,
)
"""The operations of a cast."""

FINISHING = (Operation.TRIM, Operation.CLEAN, Operation.PAINT, Operation.BOND)
"""The operations after a cast came out."""

MOULD_MAKING = (Operation.RUBBER, Operation.SHELL)
"""The operations of building a mould."""


@dataclass(frozen=True, slots=True)
class Caution:
    """A sentence, the traits it is about (none: always), and those it does not hold for."""

    traits: frozenset[Trait]
    unless: frozenset[Trait]
    text: str

    def stands(self, at_hand: set[Trait]) -> bool:
        """Whether it is to be told of materials with some traits."""
        return not self.unless & at_hand and (not self.traits or bool(self.traits & at_hand))


@dataclass(frozen=True, slots=True)
class OperationCautions:
    """What to take care of in one operation."""

    operation: Operation
    title: str
    sentences: tuple[str, ...]


def cautions_for(
    operations: tuple[Operation, ...], materials: tuple[AnyMaterial, ...]
) -> tuple[OperationCautions, ...]:
    """Return the cautions of some operations with some materials at hand.

    Parameters
    ----------
    operations : tuple of Operation
    materials : tuple of AnyMaterial

    Returns
    -------
    tuple of OperationCautions
        In the order asked; an operation without a caution is left out.
    """
    at_hand = {trait for material in materials for trait in material.traits}
    made = []
    for operation in operations:
        title, cautions = _known()[operation]
        told = tuple(c.text for c in cautions if c.stands(at_hand))
        if told:
            made.append(OperationCautions(operation, title, told))
    return tuple(made)


@cache
def _known() -> dict[Operation, tuple[str, tuple[Caution, ...]]]:
    text = files("mildhusk.core.materials").joinpath("cautions.json").read_text("utf-8")
    return {
        Operation(one["id"]): (
            one["title"],
            tuple(
                Caution(
                    frozenset(Trait(t) for t in c["traits"]),
                    frozenset(Trait(t) for t in c.get("unless", ())),
                    c["text"],
                )
                for c in one["cautions"]
            ),
        )
        for one in json.loads(text)["operations"]
    }

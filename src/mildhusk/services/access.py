"""What each may do: four rights, and who has which.

A right is asked of an address, not of a row: whose rows they are is asked with every row, by
`Transaction.find`. Which address asks for which right stands in `api.access`.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum
from types import MappingProxyType
from uuid import UUID

from mildhusk.services.errors import NotAllowedError
from mildhusk.store.access_tables import Role


class Right(StrEnum):
    """What an address asks of whoever comes to it."""

    LOOK = "look"
    """To read, and to have things worked out that are not kept."""
    POUR = "pour"
    """To tell what happens at the bench: ticks, weights, readings, pictures, faults."""
    MAKE = "make"
    """To plan, buy, price and delete."""
    OWN = "own"
    """To say who comes in, and to take everything out or in."""


RIGHTS: Mapping[Role, frozenset[Right]] = MappingProxyType(
    {
        Role.OWNER: frozenset(Right),
        Role.MAKER: frozenset({Right.LOOK, Right.POUR, Right.MAKE}),
        Role.APPRENTICE: frozenset({Right.LOOK, Right.POUR}),
        Role.TABLET: frozenset({Right.LOOK, Right.POUR}),
        Role.GUEST: frozenset({Right.LOOK}),
    }
)
_SAID = {
    Right.POUR: "A guest may look, and change nothing. Ask the owner for another role.",
    Right.MAKE: (
        "An apprentice, and a tablet at the bench, may pour and log, and change nothing else. "
        "Ask a maker or the owner."
    ),
    Right.OWN: "That is for the owner of the workshop.",
}


@dataclass(frozen=True, slots=True)
class Visitor:
    """Whoever asks: somebody who is signed in, or anybody where the workshop is open.

    Parameters
    ----------
    workshop_id : UUID
    role : Role
    name : str
        Empty where the workshop is open.
    account_id, signed_in_id : UUID or None
        A tablet has no account; where the workshop is open there is neither.
    """

    workshop_id: UUID
    role: Role
    name: str = ""
    account_id: UUID | None = None
    signed_in_id: UUID | None = None

    @property
    def is_anybody(self) -> bool:
        """Whether nobody has to sign in here yet."""
        return self.signed_in_id is None

    @property
    def rights(self) -> frozenset[Right]:
        """What this one may do."""
        return RIGHTS[self.role]

    def check(self, right: Right) -> None:
        """Refuse what this one may not do.

        Raises
        ------
        NotAllowedError
        """
        if right not in self.rights:
            needs = Right.POUR if self.role is Role.GUEST and right is Right.MAKE else right
            raise NotAllowedError(_SAID[needs])

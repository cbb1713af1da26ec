"""How a mould is turned, and how finely it is looked at; light to import, as the flow is not."""

from dataclasses import dataclass
from enum import StrEnum

from mildhusk.core.checks import Bounds, check_bounds, needed_within, within
from mildhusk.core.coating.motion import Motion
from mildhusk.core.errors import CoatingError

FINEST_M, COARSEST_M = 0.001, 0.05
"""Edges of the faces that a coat can be computed on."""
MOST_COATS, MOST_SHARE, MOST_LEAD = 40, 10.0, 4.0


class LeastWall(StrEnum):
    """What part of the kept face a least wall is meant for."""

    MOST = "95%"
    NEARLY_ALL = "99%"
    TYPICAL = "typical"

    @property
    def share_under(self) -> float:
        """Of the face that may be thinner. [1]"""
        return {"95%": 0.05, "99%": 0.01, "typical": 0.5}[self]


class Pour(StrEnum):
    """Where a charge goes in."""

    RIM = "rim"
    LOW_PLACE = "low-place"

    @property
    def words(self) -> str:
        """As one says it."""
        return "round the rim" if self is Pour.RIM else "into the deepest place"


@dataclass(frozen=True, slots=True)
class HowTurned:
    """How a mould is turned, and how finely it is looked at.

    Parameters
    ----------
    motion : Motion
    capped : bool
        A lid closes every opening.
    edge_m : float
        Of the faces computed on. [m]
    coats : int or None
        Into how many charges the resin of the rolled coats is divided; as the sheet has it where
        None.
    lead : float
        So many times as heavy as each of the others the first of them is.
    share : float or None
        Only the first coat, with so much of its charge.

    Raises
    ------
    CoatingError
        A value out of range.
    """

    motion: Motion
    capped: bool
    edge_m: float = needed_within(Bounds(FINEST_M, COARSEST_M, "The edge", "mm", 1e3))
    coats: int | None = within(Bounds(1, MOST_COATS, "The number of coats"), None)
    lead: float = within(
        Bounds(1.0 / MOST_LEAD, MOST_LEAD, "The first coat", "times the others"), 1.0
    )
    share: float | None = within(Bounds(1e-3, MOST_SHARE, "The share of a charge"), None)

    def __post_init__(self) -> None:
        check_bounds(self, CoatingError)

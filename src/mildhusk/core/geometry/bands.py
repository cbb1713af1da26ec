"""How far the figures of a piece may be off."""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Bands:
    """What figures of a piece may be wrong by, as shares: the mesh, and what is not answered yet.

    Parameters
    ----------
    area, shell_volume, girth : float
        [1]
    """

    area: float
    shell_volume: float
    girth: float

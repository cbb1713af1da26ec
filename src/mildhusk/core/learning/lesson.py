"""What one pour says of the values that are learned."""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Told:
    """What one pour says of a value, and how far that may be off by itself. [1]"""

    value: float
    noise: float | None = None


@dataclass(frozen=True, slots=True)
class Lesson:
    """What one pour teaches; None of what it does not tell.

    Parameters
    ----------
    loss : Told or None
        Share of what was weighed that stayed in cup and on stick. [1]
    area_factor : Told or None
        The area the cast has, by the measured one. [1]
    time_factor : Told or None
        Gel times by the data sheet's; its noise is over that of one coat. [1]
    coat_wall : Told or None
        Mean wall of a coat by what the data sheet says one leaves. [1]
    evenness : Told or None
        How uneven it was read, by how uneven it was simulated. [1]
    viscosity_factor : Told or None
        [1]
    by_hand : bool
        Turned by hand.
    """

    loss: Told | None = None
    area_factor: Told | None = None
    time_factor: Told | None = None
    coat_wall: Told | None = None
    evenness: Told | None = None
    viscosity_factor: Told | None = None
    by_hand: bool = True

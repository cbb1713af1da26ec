"""How sure those values of a wish are that pours taught."""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class LearnedBands:
    """Half the bands of values of a wish that pours taught; None where they taught another. [1]

    Parameters
    ----------
    loss, area_factor, time_factor : float or None
    """

    loss: float | None = None
    area_factor: float | None = None
    time_factor: float | None = None


NOTHING_LEARNED = LearnedBands()

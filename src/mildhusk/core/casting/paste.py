"""Where the last coat goes on as a paste, and how much of it at each place."""

import math
from dataclasses import dataclass

from mildhusk.core.checks import require_between, require_text
from mildhusk.core.errors import ConditionError

PASTE_SHARE = 0.2
"""Share of the face where a rolled wall is thin: rims, edges, corners (assumed)."""
PASTE_THICKENER = 0.04
"""Of A and B, in a paste that stays where it is spread (assumed)."""
MOST_PLACES = 20
_LONGEST_NAME = 120
_FIELD = "paste_places"


@dataclass(frozen=True, slots=True)
class PastePlace:
    """A place where a paste goes.

    Parameters
    ----------
    name : str
        In the maker's words, for instance "brow".
    area_m2 : float
        [m^2]

    Raises
    ------
    ConditionError
        No name, or an area that no spatula spreads.
    """

    name: str
    area_m2: float

    def __post_init__(self) -> None:
        require_text(
            self.name, _LONGEST_NAME, name="The name of a place for the paste", field=_FIELD,
            error=ConditionError,
        )  # fmt: skip
        require_between(
            self.area_m2, 1e-5, 10.0, name=f"The area of '{self.name}'", field=_FIELD,
            error=ConditionError, shown_in="cm²", scale=1e4,
        )  # fmt: skip


@dataclass(frozen=True, slots=True)
class PasteShare:
    """What of a paste goes to a place.

    Parameters
    ----------
    name : str
        Of the place.
    area_m2 : float
        [m^2]
    mixed_kg : float
        A whole number of the scale's steps. [kg]
    """

    name: str
    area_m2: float
    mixed_kg: float


def paste_area(places: tuple[PastePlace, ...], face_m2: float) -> float:
    """Return what a paste covers: the places that are named, else the usual share of the face.

    Raises
    ------
    ConditionError
        Places that are larger than the face, or too many.
    """
    if len(places) > MOST_PLACES:
        raise ConditionError(f"Name at most {MOST_PLACES} places for the paste.", _FIELD)
    if not places:
        return PASTE_SHARE * face_m2
    area = math.fsum(place.area_m2 for place in places)
    if area > face_m2:
        raise ConditionError(
            f"The places for the paste come to {area * 1e4:.0f} cm², and the whole face has "
            f"{face_m2 * 1e4:.0f} cm²; make them smaller.",
            _FIELD,
        )
    return area


def shared_out(
    places: tuple[PastePlace, ...], total_kg: float, step_kg: float
) -> tuple[PasteShare, ...]:
    """Share a paste among its places by area, in the scale's steps; the largest takes the rest.

    Parameters
    ----------
    places : tuple of PastePlace
    total_kg : float
        Of the paste. [kg]
    step_kg : float
        Last digit of the scale. [kg]

    Returns
    -------
    tuple of PasteShare
        They sum to the paste.
    """
    if not places:
        return ()
    area = math.fsum(place.area_m2 for place in places)
    each = [round(total_kg * place.area_m2 / area / step_kg) * step_kg for place in places]
    largest = max(range(len(places)), key=lambda at: places[at].area_m2)
    each[largest] = total_kg - math.fsum(kg for at, kg in enumerate(each) if at != largest)
    return tuple(
        PasteShare(place.name, place.area_m2, kg) for place, kg in zip(places, each, strict=True)
    )

"""What a file leaves open: each question with its answers, and what an answer changes."""

from dataclasses import dataclass, replace

from mildhusk.core.errors import InputError
from mildhusk.core.geometry.length_units import LengthUnit
from mildhusk.core.geometry.survey_options import (
    LoosePartsChoice,
    SkinChoice,
    SpikesChoice,
    SurveyWish,
)

LARGEST_OF_A_PERSON_M = 2.5
"""What is larger than a person with a headdress is a wrong unit as a rule (assumed)."""
SMALLEST_TO_CAST_M = 0.07
"""Smaller than any mask (common practice, no source)."""


@dataclass(frozen=True, slots=True)
class QuestionChoice:
    """An answer to a question.

    Parameters
    ----------
    id : str
    title : str
    field, value : str
        What it sets of the survey's wish; the field is `units` for the unit of the file.
    area_m2 : float or None
        Casting face with this answer, where it changes that. [m^2]
    text : str
        Its title with that area.
    """

    id: str
    title: str
    field: str
    value: str
    area_m2: float | None = None
    text: str = ""

    def __post_init__(self) -> None:
        area = "" if self.area_m2 is None else f": {self.area_m2 * 1e4:,.0f} cm²"
        object.__setattr__(self, "text", f"{self.title}{area}")


@dataclass(frozen=True, slots=True)
class Question:
    """A question about a file; until it is answered, the likelier answer stands.

    Parameters
    ----------
    id : str
    title, text : str
    choices : tuple of QuestionChoice
    likelier : str
        Id of the answer the figures stand on.
    """

    id: str
    title: str
    text: str
    choices: tuple[QuestionChoice, ...]
    likelier: str


def hollow_question(all_m2: float, outer_m2: float, wall_m: float | None) -> Question:
    """Ask whether a file is a hollow print.

    Parameters
    ----------
    all_m2, outer_m2 : float
        Casting face of a solid piece, and of a hollow print. [m^2]
    wall_m : float or None
        Between the two skins. [m]

    Returns
    -------
    Question
    """
    wall = f", about {wall_m * 1e3:.1f} mm apart" if wall_m else ""
    return Question(
        "hollow",
        "Is this a hollow print?",
        f"It has two skins{wall}; a solid piece of that shape is possible too. All of it is "
        "counted until you say.",
        (
            QuestionChoice(
                "outer", "Hollow print: the outer skin", "skin", SkinChoice.OUTER, outer_m2
            ),
            QuestionChoice("all", "Solid piece: all of it", "skin", SkinChoice.ALL, all_m2),
        ),
        "all",
    )


def loose_question(area_m2: float, loose_m2: float) -> Question:
    """Ask whether loose parts belong to the piece; areas of all and of them. [m^2]"""
    without = area_m2 - loose_m2
    return Question(
        "parts",
        "Do the loose parts belong to it?",
        f"Loose parts and slivers make up {loose_m2 / area_m2 * 100:.2g} % of the file. They are "
        "counted until you say.",
        (
            QuestionChoice(
                "count", "They belong to it", "loose_parts", LoosePartsChoice.COUNTED, area_m2
            ),
            QuestionChoice(
                "leave-out", "Leave out", "loose_parts", LoosePartsChoice.LEFT_OUT, without
            ),
        ),
        "count",
    )


def spikes_question(area_m2: float, spikes: int, spikes_m2: float) -> Question:
    """Ask whether corners that stand far out are meant.

    Parameters
    ----------
    area_m2 : float
        With them. [m^2]
    spikes : int
    spikes_m2 : float
        What moving them back would take. [m^2]

    Returns
    -------
    Question
    """
    corners = "One corner stands" if spikes == 1 else f"{spikes} corners stand"
    kept = "It is" if spikes == 1 else "They are"
    without = area_m2 - spikes_m2
    return Question(
        "spikes",
        "Is the spike meant?" if spikes == 1 else "Are the spikes meant?",
        f"{corners} far out from the neighbours. {kept} kept until you say.",
        (
            QuestionChoice("keep", "Meant", "spikes", SpikesChoice.KEPT, area_m2),
            QuestionChoice(
                "move-back", "Damage: move back", "spikes", SpikesChoice.MOVED_BACK, without
            ),
        ),
        "keep",
    )


def unit_question(largest: float, taken: LengthUnit) -> Question | None:
    """Ask for the unit of a file, where its size is that of no mask, helmet or bust.

    Parameters
    ----------
    largest : float
        Largest extent, in the unit of the file.
    taken : LengthUnit
        The unit it is taken to be in.

    Returns
    -------
    Question or None
    """
    if SMALLEST_TO_CAST_M <= largest * taken.metres <= LARGEST_OF_A_PERSON_M:
        return None
    size = "larger than a person" if largest * taken.metres > 1.0 else "smaller than a mask"
    return Question(
        "unit",
        "Which unit is the file in?",
        f"In {taken.plural} the piece would be {_long(largest * taken.metres)} across, {size}.",
        tuple(
            QuestionChoice(
                str(unit),
                f"In {unit.plural}: {_long(largest * unit.metres)} across",
                "units",
                str(unit),
            )
            for unit in LengthUnit
        ),
        str(taken),
    )


_ANSWERS: dict[tuple[str, str], tuple[str, object]] = {
    ("hollow", "outer"): ("skin", SkinChoice.OUTER),
    ("hollow", "all"): ("skin", SkinChoice.ALL),
    ("parts", "count"): ("loose_parts", LoosePartsChoice.COUNTED),
    ("parts", "leave-out"): ("loose_parts", LoosePartsChoice.LEFT_OUT),
    ("spikes", "keep"): ("spikes", SpikesChoice.KEPT),
    ("spikes", "move-back"): ("spikes", SpikesChoice.MOVED_BACK),
}


def answered(wish: SurveyWish, question: str, choice: str) -> SurveyWish:
    """Return a wish with a question answered.

    Parameters
    ----------
    wish : SurveyWish
    question, choice : str
        Their ids.

    Returns
    -------
    SurveyWish

    Raises
    ------
    InputError
        No such question, or no such answer to it.
    """
    if (question, choice) not in _ANSWERS:
        asked = sorted({one for one, _ in _ANSWERS})
        if question not in asked:
            raise InputError(
                f"There is no question '{question}'; it is one of unit, {', '.join(asked)}.",
                "answer",
            )
        known = ", ".join(answer for one, answer in _ANSWERS if one == question)
        raise InputError(f"'{choice}' is no answer to '{question}'; give one of {known}.", "answer")
    field, value = _ANSWERS[question, choice]
    return replace(wish, **{field: value})  # type: ignore[arg-type]


def _long(length_m: float) -> str:
    return f"{length_m:,.3g} m" if length_m >= 1.0 else f"{length_m * 1e3:,.3g} mm"

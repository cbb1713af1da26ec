"""More or fewer coats: which plans are beaten, and what is taken of coats not simulated."""

from dataclasses import replace

import pytest

from core import plans
from mildhusk.core.casting.choices import compare, elsewhere, is_better
from mildhusk.core.casting.plan import SheetWall, plan_cast
from mildhusk.core.casting.unevenness import StandsOn, Unevenness

TURNED = replace(plans.WISH, motion="machine", lid=True)


def sheet(coats, p05_share=None, under=0.03):
    """A plan in so many coats, as if its wall had been simulated so even."""
    found = plan_cast(plans.FACE, plans.RESIN, replace(TURNED, coats=coats))
    if p05_share is None:
        return found
    wall = SheetWall(0.004, p05_share * 0.004, 0.002, under, 0.0, 0.0, 0.0, 0.0, 0.0, ())
    return replace(found, wall=wall, stands_on=StandsOn.SETTLED)


@pytest.mark.parametrize(
    ("one", "other", "expected"),
    [
        ((1.0, 2.0), (1.0, 3.0), True),
        ((1.0, 3.0), (1.0, 3.0), False),
        ((0.5, 4.0), (1.0, 3.0), False),
        ((1.0, 3.0), (0.5, 4.0), False),
        ((2.0, 3.0), (1.0, 2.0), False),
        # By rounding alone neither is better, nor stands in the other's way.
        ((0.999, 3.0), (1.0, 3.0), False),
        ((1.003, 2.0), (1.0, 3.0), True),
    ],
)
def test_one_is_better_when_it_is_nowhere_worse(one, other, expected):
    assert is_better(one, other) is expected


def test_more_coats_take_longer_and_stand_on_the_frontier_only_where_they_are_more_even():
    even, as_even, least_even = sheet(6, 0.7), sheet(7, 0.7), sheet(5, 0.6)
    choices = compare([least_even, even, as_even])
    assert [one.coats for one in choices] == [5, 6, 7]
    assert choices[0].hands_on_s < choices[1].hands_on_s < choices[2].hands_on_s
    # Seven as even as six only take longer; five are quicker, six more even.
    assert [one.on_frontier for one in choices] == [True, True, False]
    assert [one.evenness for one in choices] == pytest.approx([0.6, 0.7, 0.7])


def test_what_misses_the_wish_stands_behind_all_that_keep_it():
    misses, keeps = compare([sheet(5, 0.8, under=0.2), sheet(7, 0.6)])
    assert (misses.keeps, misses.on_frontier) == (False, False)
    assert (keeps.keeps, keeps.on_frontier) == (True, True)


def test_what_stays_bare_is_told_as_bare_and_compared_all_the_same():
    bare, thin = compare([sheet(6, 0.0), sheet(5, 0.4)])
    assert bare.evenness == 0.0
    assert (bare.on_frontier, thin.on_frontier) == (False, True)


def test_what_was_not_simulated_neither_beats_nor_is_beaten():
    guessed, known = compare([sheet(5), sheet(6, 0.6)])
    assert guessed.evenness is None
    assert guessed.stands_on is StandsOn.ESTIMATE
    assert guessed.on_frontier
    assert known.on_frontier


def test_other_coats_are_taken_to_be_as_uneven_and_less_sure():
    found = Unevenness(0.62, 0.1, 0.01, 0.05, StandsOn.SETTLED, coats=4)
    other = elsewhere(found)
    assert (other.thin_share, other.lid_share, other.spilt_share) == (0.62, 0.1, 0.01)
    assert (other.stands_on, other.coats) == (StandsOn.ESTIMATE, None)
    assert other.band > found.band
    rough = replace(found, band=0.4)
    assert elsewhere(rough).band == 0.4

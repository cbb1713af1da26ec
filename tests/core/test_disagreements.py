"""Where practitioners disagree: both ways, each with numbers that can be checked."""

import math
import re

import pytest

from mildhusk.core.choosing.chain import decide
from mildhusk.core.choosing.disagreements import disagreements
from mildhusk.core.choosing.task import Purpose, Task
from mildhusk.core.materials.catalogue import shipped_materials
from mildhusk.core.materials.compatibility import shipped_judge
from mildhusk.core.mixing.cup import MIXING_CUP, fill_height, reading_error

TASK = Task(Purpose.WORN, 0.33, 0.56, painted=True, spun=False)
SHELF = shipped_materials()


def found(task=TASK, shelf=SHELF):
    decided = decide(task, shelf, shipped_judge)
    return {one.id: one for one in disagreements(task, shelf, decided)}


def test_every_known_disagreement_has_two_ways_with_gains_and_costs():
    made = found()
    assert set(made) == {
        "weigh-or-measure",
        "glove-or-cut",
        "bandage-or-laminate",
        "release-or-none",
        "wall-or-foam",
        "roll-or-laminate",
    }
    for school in made.values():
        assert len(school.ways) == 2
        assert all(way.gains and way.costs for way in school.ways)


def test_a_skin_backed_with_foam_and_a_laminate_are_lighter_than_a_thick_wall():
    """By hand: 0.15 m2 by 3 mm of a resin of 1060 kg/m3 are 477 g; 1.5 mm and 15 mm of foam
    of 90 kg/m3 are 441 g; gel coat and two plies of glass of 450 g/m2: 0.15 (0.6 + 0.9/0.33) kg."""
    wall, foam = found()["wall-or-foam"].ways
    rolled, laid = found()["roll-or-laminate"].ways
    assert "about 477 g" in wall.gains[0]
    assert "About 441 g" in foam.gains[0]
    assert "About 477 g" in rolled.costs[0]
    assert "About 499 g" in laid.gains[0]
    assert any("foam" in one.lower() for one in foam.costs)


def test_the_glove_is_told_by_the_stretch_asked():
    """Exact: 560 mm through 330 mm stretch the opening by 69.7 %."""
    glove = found()["glove-or-cut"].ways[0]
    assert "stretches the opening by 70 %" in glove.costs[0]


@pytest.mark.parametrize("millilitres", [20, 100, 300, 500])
def test_the_error_of_a_misread_cup_is_the_slope_of_its_filling_curve(millilitres):
    """Law: dV = (dV/dh) dh, against the inverse of the frustum's own volume."""
    volume = millilitres * 1e-6
    share = reading_error(MIXING_CUP, volume, 1e-5)
    assert share is not None
    low, high = (fill_height(MIXING_CUP, volume * (1 + s * share)) for s in (-0.5, 0.5))
    assert high - low == pytest.approx(1e-5, rel=1e-3)


def test_a_cup_that_runs_over_has_no_reading():
    assert reading_error(MIXING_CUP, 1e-3, 1e-3) is None


def test_weighing_is_finer_than_reading_a_cup():
    """Common practice, no source: weighing matters."""
    weigh, measure = found()["weigh-or-measure"].ways
    of_scale, of_cup = (
        float(re.search(r"([\d.]+) %", text)[1]) for text in (weigh.gains[0], measure.costs[0])
    )
    assert of_scale < of_cup / 3
    assert not math.isnan(of_cup)


def test_without_a_laminate_on_the_shelf_there_is_nothing_to_disagree_about():
    bandages = tuple(m for m in SHELF if m.key not in _laminates())
    assert "bandage-or-laminate" not in found(shelf=bandages)


def _laminates():
    return {"shell-glass-polyester", "shell-epoxy-dough", "shell-urethane-paste"}

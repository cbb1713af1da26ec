"""Pours beside each other: what is usual, and what is unusual by its own spread."""

import math

import pytest

from mildhusk.core.pouring.beside import differences


def test_what_differs_most_by_its_usual_spread_comes_first():
    """1.4826 times the median distance from the median is a normal law's standard deviation
    (NIST/SEMATECH e-Handbook of Statistical Methods, 1.3.5.6)."""
    known = [
        {"room": 294.0 + off, "grams": 1.0 + 0.01 * off, "coats": 4.0}
        for off in (-3.0, -2.0, -1.0, 0.0, 1.0, 2.0, 3.0)
    ]
    pours = [
        {"room": 294.0, "grams": 1.0, "coats": 4.0},
        {"room": 297.0, "grams": 1.16, "coats": 4.0},
    ]
    grams, room = differences(pours, known)
    assert (grams.input.key, room.input.key) == ("grams", "room")
    assert grams.usual == pytest.approx(1.0)
    # Distances 0, 1, 1, 2, 2, 3, 3 hundredths: their median is 0.02.
    assert grams.unusual == pytest.approx((0.0, 0.16 / (1.4826 * 0.02)))
    assert room.unusual[1] == pytest.approx(3.0 / (1.4826 * 2.0))


def test_of_too_few_pours_nothing_is_usual_and_spreads_are_assumed():
    pours = [{"to_pour": 20.0}, {"to_pour": 80.0}]
    (found,) = differences(pours, [{"to_pour": 20.0}] * 4)
    assert found.usual is None
    assert found.unusual == pytest.approx((-1.0, 1.0))


def test_where_all_were_alike_a_hair_is_not_unusual():
    alike = [{"still": 4.0}] * 9
    (found,) = differences([{"still": 4.0}, {"still": 4.1}], alike)
    assert found.unusual[1] == pytest.approx(0.1 / 2.5)
    assert all(math.isfinite(off) for off in found.unusual)


def test_what_is_known_of_one_pour_alone_differs_and_of_none_is_left_out():
    (found,) = differences([{"lot_days": 12.0}, {}], [])
    assert found.values == (12.0, None)
    assert found.unusual[1] is None
    assert differences([{"coats": 3.0}, {"coats": 3.0}], []) == []

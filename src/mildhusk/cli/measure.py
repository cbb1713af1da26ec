"""The command `husk measure`."""

import argparse
from dataclasses import replace
from typing import Any

from mildhusk.cli.output import plain
from mildhusk.cli.shape import add_shape_words, read_mesh, survey_of
from mildhusk.core.geometry.answer import Measured, Surveyed, SurveyFacts
from mildhusk.core.wording import Quantity, Unit, in_metric


def add_words(measure: argparse.ArgumentParser) -> None:
    """Add the options of the command."""
    add_shape_words(measure)
    measure.add_argument(
        "--quick", action="store_true", help="every face as it stands: no repair, skin or V(t)"
    )


def run(given: argparse.Namespace) -> tuple[Any, list[str]]:
    """Measure a shape file."""
    if given.quick:
        return _quickly(given)
    file = survey_of(given, planning=False)
    found = file.survey
    measured, surveyed = Measured.of(found.measures), Surveyed.of(SurveyFacts.of(found))
    surveyed = replace(surveyed, asks=file.asks)
    lines = [
        *_lines(measured),
        f"skin      {surveyed.skin.said}",
        *(f"repaired  {one.said}" for one in surveyed.repairs),
        *(
            f"narrow    {in_metric(Quantity(one.width_m, Unit.LENGTH))} wide, "
            f"{in_metric(Quantity(one.volume_m3, Unit.VOLUME))}: it fills solid"
            for one in surveyed.narrow
        ),
        *file.hints,
        *_said(measured),
    ]
    return {**plain(measured), **plain(surveyed)}, lines


def _quickly(given: argparse.Namespace) -> tuple[Any, list[str]]:
    """Measure every face as it stands: no repair, no skin, no V(t)."""
    from mildhusk.core.geometry.measure import measure_face

    file = read_mesh(given)
    measured = Measured.of(measure_face(file.mesh.scaled(file.unit.metres)))
    lines = [*_lines(measured), *file.hints, *_said(measured)]
    return {**plain(measured), "asks": plain(file.asks)}, lines


def _lines(face: Measured) -> list[str]:
    opened = ", ".join(
        f"{o.name} {in_metric(Quantity(o.perimeter_m, Unit.LENGTH))}".strip() for o in face.openings
    )
    low, high = face.bounds_m
    size = " x ".join(f"{(b - a) * 1e3:.1f}" for a, b in zip(low, high, strict=True))
    return [
        f"area      {in_metric(Quantity(face.area_m2, Unit.AREA))}",
        f"holds     {in_metric(Quantity(face.volume_m3, Unit.VOLUME))}",
        f"size      {size} mm",
        f"faces     {face.faces:,}",
        f"openings  {opened or 'none'}",
    ]


def _said(face: Measured) -> list[str]:
    return [f"{one.severity}: {one.text}" for one in face.findings]

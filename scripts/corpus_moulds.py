"""Moulds of every body of the tests' corpus: what the wall needs, what is planned, or why not.

Prints a table: rubber on the mould against area by wall by density, stretch and cut against the
piece itself. A refusal stands with its sentence. Some two minutes on two cores.
"""

import sys
from collections.abc import Callable, Iterator
from datetime import UTC, datetime
from decimal import Decimal
from pathlib import Path

ROOT = Path(__file__).parents[1]
sys.path.insert(0, str(ROOT / "tests"))

from core.corpus import FORMS, dish, hollow_print, posts, solid, touched  # noqa: E402
from core.shapes import box, half_sphere, sphere, torus, tube  # noqa: E402
from mildhusk.core.equipment import Equipment  # noqa: E402
from mildhusk.core.errors import HuskError  # noqa: E402
from mildhusk.core.geometry.mesh import Mesh  # noqa: E402
from mildhusk.core.geometry.reading import read_shape  # noqa: E402
from mildhusk.core.geometry.survey import survey  # noqa: E402
from mildhusk.core.geometry.survey_options import SurveyWish  # noqa: E402
from mildhusk.core.materials.catalogue import shipped_material  # noqa: E402
from mildhusk.core.materials.kinds import Rubber, ShellMaterial  # noqa: E402
from mildhusk.core.mould.brushing import BrushWish  # noqa: E402
from mildhusk.core.mould.plan import MouldWish, plan_mould  # noqa: E402
from mildhusk.core.mould.study import MouldWay, study_mould  # noqa: E402

WALL_M = 0.010


def bodies() -> Iterator[tuple[str, Callable[[], Mesh]]]:
    """Name the bodies, and say how each is made."""
    for name, form in FORMS.items():
        yield f"{name}, print", lambda form=form: hollow_print(*form)
        yield f"{name}, solid", lambda form=form: solid(*form)
        yield f"{name}, sheet", lambda form=form: touched(*form)
    yield "helmet, print with parts", lambda: hollow_print(*FORMS["helmet"], posts)
    yield "thick dish", lambda: dish(28)
    yield "shallow dish", lambda: dish(5)
    for file, unit in (("head", 1e-3), ("dome-one", 1e-3), ("dome-two", 1e-3)):
        path = ROOT / "tests" / "registry" / f"{file}.stl"
        yield file, lambda path=path, unit=unit: _read(path, unit)
    yield "face", lambda: _read(ROOT / "tests" / "registry" / "face.obj", 1e-2)
    yield "ball", lambda: sphere(0.1, 40)
    yield "bowl", lambda: half_sphere(0.1, 20)
    yield "bowl, inside out", lambda: half_sphere(0.1, 20).flipped()
    yield "ring", lambda: torus(0.08, 0.03)
    yield "tube", lambda: tube(0.05, 0.12)
    yield "box", lambda: box(0.1, 0.12, 0.15)
    yield "plate", lambda: box(0.2, 0.1, 0.005)


def _read(path: Path, unit: float) -> Mesh:
    return read_shape(path.read_bytes(), path.name).mesh.scaled(unit)


def main() -> None:
    """Plan a brushed mould of each, and print what it takes."""
    rubber, shell = shipped_material("rubber-addition-firm"), shipped_material("shell-bandage")
    assert isinstance(rubber, Rubber)
    assert isinstance(shell, ShellMaterial)
    wish = MouldWish(rubber, shell, MouldWay.BRUSH, BrushWish(WALL_M))
    print("| body | area x wall x density, g | rubber to mix, g | stretch, % | cut, mm | of, mm |")
    print("|---|---|---|---|---|---|")
    for name, make in bodies():
        try:
            study = study_mould(survey(make(), SurveyWish()).face, rubber, WALL_M)
            plan = plan_mould(
                study,
                wish,
                shells=(shell,),
                rubber_price_per_kg=Decimal(40),
                begins=datetime(2026, 6, 1, 8, tzinfo=UTC),
                equipment=Equipment(),
            )
        except HuskError as refused:
            print(f"| {name} | refused: {refused} | | | | |", flush=True)
            continue
        least = study.brushed_m2 * WALL_M * rubber.density_kg_m3
        high = max(one.height_m for one in study.peel.stations)
        print(
            f"| {name} | {least * 1e3:.0f} | {plan.rubber_kg * 1e3:.0f} | "
            f"{study.peel.needed * 100:.0f} | {study.peel.cut_m * 1e3:.0f} | {high * 1e3:.0f} |",
            flush=True,
        )


if __name__ == "__main__":
    main()

"""How long patterns take on the helmet of the demo, beside the study of its mould."""

import time
from collections.abc import Callable
from typing import TypeVar

import numpy as np

from mildhusk.core.geometry.reading import read_shape
from mildhusk.core.geometry.survey import survey
from mildhusk.core.geometry.survey_options import SurveyWish
from mildhusk.core.materials.catalogue import shipped_material
from mildhusk.core.materials.kinds import Rubber, ShellMaterial
from mildhusk.core.mould.outside import standing
from mildhusk.core.mould.plan import chosen_split
from mildhusk.core.mould.study import study_mould
from mildhusk.core.patterns.answer import CutPattern
from mildhusk.core.patterns.box import BoxWish, box
from mildhusk.core.patterns.flat import Pattern
from mildhusk.core.patterns.part_line import PartLineWish, part_line
from mildhusk.core.patterns.sheets import SheetSize
from mildhusk.core.patterns.skirt import SkirtWish, skirt
from mildhusk.core.patterns.strips import StripsWish, strips
from mildhusk.core.patterns.trim import TrimWish, trim
from mildhusk.demo.shapes import helmet_stl
from mildhusk.documents.pattern_files import Paper, pattern_dxf, pattern_pdf, pattern_svg

TRIES = 3
T = TypeVar("T")


def main() -> None:
    """Print what each kind and each file takes, and its share of the study."""
    found = survey(read_shape(helmet_stl(), "helmet.stl").mesh.scaled(1e-3), SurveyWish())
    rubber, shell = shipped_material("rubber-addition-firm"), shipped_material("shell-bandage")
    assert isinstance(rubber, Rubber)
    assert isinstance(shell, ShellMaterial)
    study_s, study = _timed(lambda: study_mould(found.face, rubber, 0.01), 1)
    print(f"study of the mould: {study_s:.2f} s")
    split, up, piece = chosen_split(study, 2), np.array(study.up), standing(found.face)
    kinds: dict[str, Callable[[], Pattern]] = {
        "part-line": lambda: part_line(study.rubber, up, split.angle, PartLineWish(2)),
        "part-line that leaves its plane": lambda: part_line(
            study.rubber, up, split.angle, PartLineWish(2, turned=0.6, following=True)
        ),
        "strips": lambda: strips(study.rubber, up, split, shell, StripsWish()),
        "skirt": lambda: skirt(found.face, SkirtWish()),
        "box": lambda: box(piece, BoxWish(), study.curve),
        "trim": lambda: trim(found.face, found.cut_away, TrimWish()),
    }
    for name, make in kinds.items():
        taken, pattern = _timed(lambda make=make: CutPattern.of(make(), SheetSize()), TRIES)
        print(f"{name}: {taken:.3f} s, {taken / study_s:.3f} of the study")
        if name == "part-line":
            files: dict[str, Callable[[CutPattern], bytes]] = {
                "svg": pattern_svg,
                "dxf": pattern_dxf,
                "pdf": lambda one: pattern_pdf(one, Paper.A4, "Helmet"),
            }
            for ending, write in files.items():
                taken, _ = _timed(lambda write=write, one=pattern: write(one), TRIES)
                print(f"  as {ending}: {taken:.3f} s, {taken / study_s:.3f} of the study")


def _timed(work: Callable[[], T], tries: int) -> tuple[float, T]:
    taken = []
    for _ in range(tries):
        begun = time.perf_counter()
        made = work()
        taken.append(time.perf_counter() - begun)
    return min(taken), made


if __name__ == "__main__":
    main()

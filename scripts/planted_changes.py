"""Plant small changes in a copy of the core, one at a time, and print those that no test notices.

Each line of a change stands once in its file. The tests beside it are those that are about it; a
change is noticed when one of them fails. Takes some minutes on two cores; not part of `make test`.
"""

import os
import shutil
import subprocess
import sys
import tempfile
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from queue import SimpleQueue

ROOT = Path(__file__).parents[1]
CORE = Path("src/mildhusk/core")
_AT_ONCE = 2


@dataclass(frozen=True, slots=True)
class Change:
    """What is planted, where, and the tests that should notice."""

    what: str
    file: str
    old: str
    new: str
    tests: str


CHANGES = (
    Change("demould without cooling down", "cure/model.py",
           "max(film.reaches(model.demould), _cool_at(film, setup.mould_k))",
           "film.reaches(model.demould)", "cure"),
    Change("viscosity rises with heat", "cure/model.py",
           "cold = 1.0 / course.temperature_k - 1.0 / resin.standard_temperature_k",
           "cold = 1.0 / resin.standard_temperature_k - 1.0 / course.temperature_k", "cure"),
    Change("full cure counted twice", "cure/clock.py",
           "full_cure_s=found.demould_s * resin.full_cure_s / resin.demould_s",
           "full_cure_s=found.demould_s + resin.full_cure_s", "clock"),
    Change("post-cure counts the demould again", "cure/data_sheet.py",
           "at_sheet = resin.full_cure_s - resin.demould_s", "at_sheet = resin.full_cure_s",
           "cure"),
    Change("thinner in every coat", "mould/brushing.py",
           "if wish.thinned and number == 1 else 0.0", "if wish.thinned else 0.0", "mould_plan"),
    Change("window's end without the time of brushing", "mould/clock.py",
           "max(0.0, before.next_until_s - spent)", "max(0.0, before.next_until_s)", "mould_plan"),
    Change("rim limit dropped", "casting/plan.py",
           "rim = 1.0 if not face.openings else RIM_SHARE", "rim = 1.0", "coats"),
    Change("shelf life of the longest kit", "supply/buying.py",
           "left_over_days=min(kit.shelf_life_days", "left_over_days=max(kit.shelf_life_days",
           "buying"),
    Change("mould hours not shared over its life", "supply/costing.py",
           'group, work, hour, casts, life)', 'group, work, hour, casts, 1)', "costing"),
    Change("rubber not shared over its life", "supply/costing.py",
           "mould.rubber_rate,\n        casts,\n        life,",
           "mould.rubber_rate,\n        casts,\n        1,", "costing"),
    Change("mean curvature added instead of taken off", "geometry/wall_volume.py",
           "- curve.mean_curvature_m * wall_m**2\n",
           "+ 0.5 * curve.mean_curvature_m * wall_m**2\n",
           "measure sheet"),
    Change("a third of the total curvature forgotten", "geometry/wall_volume.py",
           "+ curve.total_curvature / 3.0 * wall_m**3\n    )\n    solid",
           "+ curve.total_curvature * wall_m**3\n    )\n    solid", "measure sheet"),
    Change("rubber grown inwards", "geometry/wall_volume.py",
           "+ curve.mean_curvature_m * wall_m**2\n        + curve.total_curvature / 3.0",
           "- curve.mean_curvature_m * wall_m**2\n        + curve.total_curvature / 3.0",
           "mould_estimate"),
    Change("heat lost twice as fast from a cup", "cure/surroundings.py",
           "cooling = AIR_U_W_M2_K * surface", "cooling = 2.0 * AIR_U_W_M2_K * surface",
           "cure heat"),
    Change("no rubber behind a film", "cure/surroundings.py",
           "1.0 / np.concatenate([[way + half[0]]", "1e-9 / np.concatenate([[way + half[0]]",
           "heat"),
    Change("inhibitor never used up", "cure/kinetics.py",
           "g = 1.0 / (1.0 + ratio * (1.0 - z / induction))", "g = 1.0 / (1.0 + ratio)", "cure"),
    Change("the catalyst's dose does not matter", "cure/dose.py",
           "return float(catalyst / doses.usual)", "return 1.0", "cure"),
    Change("the tack window starts at gel", "cure/model.py",
           "tack_from=follows(resin.tack_from_s)", "tack_from=gel", "cure clock"),
    Change("pour until the end of the working time", "cure/clock.py",
           "pour_by_s=working - min(at.spread_s, working / 2.0)", "pour_by_s=working", "clock"),
    Change("all cups at once in one", "cure/clock.py",
           "cup_kg = charge_kg / at.cups", "cup_kg = charge_kg", "clock coats"),
    Change("warm rooms cure as cool ones", "mould/catalyst.py",
           "rate = 2.0 ** (", "rate = 1.0 ** (", "batch mould_plan"),
    Change("ratio turned round between weight and volume", "mixing/ratio.py",
           "factor = heavier if basis is RatioBasis.WEIGHT else 1.0 / heavier",
           "factor = 1.0 / heavier if basis is RatioBasis.WEIGHT else heavier", "recipe"),
    Change("an overshoot is poured back", "mixing/ratio.py",
           "return tuple(max(0.0, grown * part - got)", "return tuple((grown * part - got - 1e-3)",
           "recipe"),
    Change("thickener of A alone", "mixing/recipe.py",
           "thickener_kg=_to_step(extras.thickener * both, scale)",
           "thickener_kg=_to_step(extras.thickener * neat.a_kg, scale)", "recipe"),
    Change("an overshoot forgets the thinner", "mixing/recipe.py",
           "_to_step(made.thinner_kg * growth, scale_step_kg)",
           "_to_step(made.thinner_kg, scale_step_kg)", "recipe"),
    Change("filler's density for the resin's", "mixing/recipe.py",
           "filler = extras.filler / extras.filler_density_kg_m3\n    return (1.0 + extras.filler)",
           "filler = extras.filler / resin_density_kg_m3\n    return (1.0 + extras.filler)",
           "recipe"),
    Change("charges rounded down", "mixing/split.py",
           "math.ceil(value / step - _STEP_NOISE)", "math.floor(value / step + _STEP_NOISE)",
           "mixing recipe"),
    Change("a cylinder for a tapered cup", "mixing/cup.py",
           "return (math.cbrt(3.0 * k * volume_m3 / math.pi + r0**3) - r0) / k",
           "return volume_m3 / (math.pi * r0 * r0)", "mixing disagreements recipe"),
    Change("one hand weighs while it rolls", "casting/timeline.py",
           "return WEIGHING_TIME_S if hands == 1 else 0.0", "return 0.0", "coats"),
    Change("the window of the last coat is missed in silence", "casting/rules.py",
           "if poured <= coat.clock.next_until_s:", "if poured <= 2.0 * coat.clock.next_until_s:",
           "findings coats"),
    Change("coats one too few", "casting/coats.py",
           "return max(1, whole_number(wall_m / coat_wall_m))",
           "return max(1, int(wall_m / coat_wall_m))", "coats sheet"),
    Change("cups filled to the brim", "casting/plan.py",
           "at.cups * CUP_FILL * equipment", "at.cups * equipment", "coats"),
    Change("lots past their date are used", "supply/buying.py",
           "if lot.expires >= use_on and", "if", "buying"),
    Change("a lot freshly opened first", "supply/buying.py",
           "lot.opened or lot.expires, lot.expires, lot.key)",
           "lot.left_kg, lot.expires, lot.key)", "buying"),
    Change("dearest of equal kits", "supply/buying.py",
           "price + tie * mass,", "tie * mass,", "buying"),
    Change("an order below the shop's minimum", "supply/buying.py",
           "lb=[*missing, least]", "lb=[*missing, 0]", "buying"),
    Change("bandage of one ply", "mould/shells.py",
           "return strip_plies / (1.0 - overlap)", "return 1.0", "shell mould_plan"),
    Change("a lift from the floor like one at the knuckles", "mould/handling.py",
           "(1.0 - 0.003 * abs(100.0 * height_m - 75.0))", "1.0", "mould_plan shell"),
    Change("moments without gravity", "mould/handling.py",
           "moment_across_nm=whole * GRAVITY_M_S2 * away", "moment_across_nm=whole * away",
           "mould_plan shell"),
    Change("the rubber may be stretched to its break", "mould/letting_go.py",
           "allowed = rubber.elongation / STRETCH_SAFETY", "allowed = rubber.elongation",
           "mould_plan mould_shapes"),
    Change("girths below count, not those above", "mould/letting_go.py",
           "np.maximum.accumulate(girth[::-1])[::-1]", "np.maximum.accumulate(girth)",
           "mould_plan mould_shapes"),
    Change("a head's clearance over the diameter", "geometry/wearing.py",
           "shorter - head.girth_m) / (2.0 * math.pi)", "shorter - head.girth_m) / math.pi",
           "byhand"),
    Change("a wall does not narrow the opening", "geometry/wearing.py",
           "shorter = 2.0 * math.pi * wall_m", "shorter = 0.0", "byhand"),
    Change("gel times learned by their plain mean", "pouring/lessons.py",
           "math.fsum(math.log(one) for one in ratios) / len(ratios)",
           "math.log(math.fsum(ratios) / len(ratios))", "learning"),
    Change("learned from what the plan had learned", "pouring/lessons.py",
           "plan.cast_kg / plan.area_factor, _PLACE_SPREAD", "plan.cast_kg, _PLACE_SPREAD",
           "learning"),
    Change("a film drawn out a tenth too thick", "coating/withdrawal.py",
           "limit * relative_thickness(", "1.1 * limit * relative_thickness(",
           "coating"),
    Change("a poisoned rubber is only a worry", "choosing/judging.py",
           "elif rule.severity in SPOILING:", "elif False:", "chain"),
    Change("a porous master needs no sealer", "choosing/judging.py",
           "if porous and task.master is not None:", "if False:", "chain"),
    Change("fast catalyst costs no life", "mould/batch.py",
           "life = times.life", "life = 1.0", "batch"),
    Change("only the hottest limit of heat is told", "cure/heat.py",
           "for limit in class_of(resin).heat_limits\n",
           "for limit in class_of(resin).heat_limits[-1:]\n", "heat"),
    Change("a puddle may be twice as deep", "cure/heat.py",
           "return PuddleLimit(limit, depth)", "return PuddleLimit(limit, 2.0 * depth)", "heat"),
)  # fmt: skip


def main() -> None:
    """Plant every change, and print what no test noticed."""
    with tempfile.TemporaryDirectory() as folder:
        copies: SimpleQueue[Path] = SimpleQueue()
        for number in range(_AT_ONCE):
            copy = Path(folder) / str(number)
            for name in ("src", "tests", "pyproject.toml"):
                source = ROOT / name
                if source.is_dir():
                    shutil.copytree(source, copy / name, ignore=_not_copied)
                else:
                    copy.mkdir(exist_ok=True)
                    shutil.copy(source, copy / name)
            copies.put(copy)
        # A test that fails by itself would notice everything.
        files = sorted({name for change in CHANGES for name in change.tests.split()})
        with ThreadPoolExecutor(_AT_ONCE) as pool:
            halves = [files[at::_AT_ONCE] for at in range(_AT_ONCE)]
            places = [Path(folder) / str(number) for number in range(_AT_ONCE)]
            for plain in pool.map(_tested, places, halves):
                if plain.returncode != 0:
                    sys.exit(f"The tests fail with nothing planted:\n{plain.stdout[-2000:]}")
            found = list(pool.map(lambda one: _planted(one, copies), CHANGES))
    missed = [one.what for one, noticed in zip(CHANGES, found, strict=True) if not noticed]
    print(f"{len(CHANGES)} changes planted, {len(missed)} not noticed")
    for what in missed:
        print(f"  {what}")
    sys.exit(1 if len(missed) > 3 else 0)


def _not_copied(_folder: str, names: list[str]) -> set[str]:
    return {name for name in names if name in ("__pycache__", "web", "browser", "api", "registry")}


def _tested(copy: Path, names: list[str]) -> "subprocess.CompletedProcess[str]":
    """Run some of the core's tests in a copy until one fails."""
    return subprocess.run(
        [sys.executable, "-m", "pytest", "-x", "-q", "--no-header", "-p", "no:cacheprovider",
         *(f"tests/core/test_{name}.py" for name in names)],
        cwd=copy,
        env={**os.environ, "PYTHONPATH": str(copy / "src")},
        capture_output=True,
        text=True,
        check=False,
    )  # fmt: skip


def _planted(change: Change, copies: "SimpleQueue[Path]") -> bool:
    """Plant a change, run its tests, take it back; returns whether one failed."""
    copy = copies.get()
    file = copy / CORE / change.file
    text = file.read_text("utf-8")
    try:
        if text.count(change.old) != 1:
            raise SystemExit(f"'{change.old}' stands {text.count(change.old)} times in {file}")
        file.write_text(text.replace(change.old, change.new), "utf-8")
        done = _tested(copy, change.tests.split())
        noticed = done.returncode == 1
        print(f"{'noticed' if noticed else 'MISSED '} {change.what}", flush=True)
        if done.returncode not in (0, 1):
            print(done.stdout[-2000:], done.stderr[-2000:])
        return noticed
    finally:
        file.write_text(text, "utf-8")
        copies.put(copy)


if __name__ == "__main__":
    main()

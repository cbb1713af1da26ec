"""Draws how the classes cure beside their references: docs/curing.md and its picture."""

import sys
from pathlib import Path

import numpy as np

ROOT = Path(__file__).parents[1]
sys.path.insert(0, str(ROOT / "tests"))

import matplotlib as mpl  # noqa: E402

mpl.use("Agg")
import matplotlib.pyplot as plt  # noqa: E402
from matplotlib.axes import Axes  # noqa: E402

from core.test_cure import PUBLISHED  # noqa: E402 - the tests' references
from core.test_heat import conducted  # noqa: E402
from mildhusk.core.constants import ZERO_CELSIUS_K  # noqa: E402
from mildhusk.core.cure.classes import class_of  # noqa: E402
from mildhusk.core.cure.heat import passed_in_cup, puddle_limit  # noqa: E402
from mildhusk.core.cure.model import Cure, CureSetup, cure  # noqa: E402
from mildhusk.core.materials.casting_resin import CastingResin  # noqa: E402
from mildhusk.core.materials.catalogue import shipped_resin  # noqa: E402
from mildhusk.core.wording import in_minutes  # noqa: E402

DOCS = ROOT / "docs"
ROOM_K = 23.0 + ZERO_CELSIUS_K
CLASSES = {
    "urethane": "pu-fast-rigid",
    "polyester": "polyester",
    "epoxy": "epoxy-slow",
    "gypsum": "gypsum-acrylic",
}
SAID = {
    "urethane": ("90 to 150 °C", "as hot", "about 5 min (common practice, no source)"),
    "polyester": ("150 to 200 °C (data sheets, from memory)", "near H/cp",
                  "about as soon as the cup (common practice, no source)"),
    "epoxy": ("60 to 150 °C (data sheets, from memory)",
              "over 180 °C: it smokes (common practice, no source)",
              "hours after the cup (common practice, no source)"),
    "gypsum": ("40 to 65 °C (from memory)", "as hot", "as the cup (common practice, no source)"),
}  # fmt: skip


def main() -> None:
    """Compute, draw, and write the page."""
    figure, axes = plt.subplots(1, 3, figsize=(13, 4.2))
    for draw, place in zip((cups, films, rooms), axes, strict=True):
        draw(place)
    figure.tight_layout()
    figure.savefig(DOCS / "curing.png", dpi=90)
    rows = [row for name in CLASSES for row in rows_of(name)]
    table = "\n".join(f"| {' | '.join(row)} |" for row in rows)
    sources = "\n".join(
        f"- **{name}** {what}: {said}."
        for name, key in CLASSES.items()
        for what, said in class_of(shipped_resin(key)).sources.items()
    )
    (DOCS / "curing.md").write_text(PAGE.format(table=table, sources=sources), "utf-8")
    print(table)


PAGE = """# How resins cure: computed beside what is published

`scripts/cure_table.py` computes, draws and writes this page; the same checks stand as tests in
`tests/core/test_cure.py` and `tests/core/test_heat.py`. All at 23 °C. The fitted case is 100 g in a
cup (the method of ASTM D2471, from memory): its gel time is the data sheet's. The rest follows.

![Cups, films, rooms](curing.png)

| class | case | computed | reference or range |
| --- | --- | --- | --- |
{table}

Left: temperature of 100 g in a cup, with the published range of its peak as a bar. Middle: when a
film on 10 mm of rubber gels; crosses are the same cure with heat conducted through 36 fine layers,
solved by a stiff solver. Right: working time in other rooms over that at 23 °C, beside half the
time for ten degrees more (rule of thumb, common practice, no source); plaster does not follow it.

## Where the numbers come from

{sources}
"""


def rows_of(name: str) -> list[tuple[str, str, str, str]]:
    """Return the rows of a class."""
    resin = shipped_resin(CLASSES[name])
    hundred, kilo, film, puddle = cases(resin)
    of_class = class_of(resin)
    rise = of_class.heat_j_kg / of_class.heat_capacity_j_kg_k
    limit = puddle_limit(resin, ROOM_K, ROOM_K)
    deep = "any depth stays cool" if limit is None else (
        f"over {1e3 * limit.depth_m:.1f} mm it passes {celsius(limit.limit.temperature_k)}"
    )  # fmt: skip
    heat, activation, gel, _ = PUBLISHED[CLASSES[name]]
    first, second, third = SAID[name]
    return [
        (name, "heat, activation, degree at gel",
         f"{of_class.heat_j_kg / 1e3:.0f} kJ/kg, {of_class.activation_j_mol / 1e3:.0f} kJ/mol, "
         f"{of_class.gel_degree:g}",
         f"{heat[0]} to {heat[1]} kJ/kg, {activation[0]} to {activation[1]} kJ/mol, "
         f"{gel[0]:g} to {gel[1]:g} (sources below)"),
        (name, "100 g in a cup",
         f"gels after {in_minutes(hundred.gel_cup_s)}, gets {celsius(hundred.peak_cup_k)}",
         f"{in_minutes(resin.gel_s)} (its data sheet); {first}"),
        (name, "1 kg in a cup",
         f"gels after {in_minutes(kilo.gel_cup_s)}, gets {celsius(kilo.peak_cup_k)}"
         f"{passes(resin, kilo)}",
         f"{second}; never over {celsius(ROOM_K + rise)} (adiabatic, H/cp)"),
        (name, "film of 1 mm",
         f"gels after {in_minutes(film.gel_film_s)}, gets {celsius(film.peak_film_k)}", third),
        (name, "puddle of 10 mm",
         f"gels after {in_minutes(puddle.gel_film_s)}, gets {celsius(puddle.peak_film_k)}; {deep}",
         conducted_row(resin)),
    ]  # fmt: skip


def cases(resin: CastingResin) -> tuple[Cure, Cure, Cure, Cure]:
    """Return 100 g, 1 kg, a film of 1 mm, a puddle of 10 mm."""

    def found(kg: float, film_m: float) -> Cure:
        return cure(resin, CureSetup(kg, ROOM_K, ROOM_K, ROOM_K, film_m))

    return found(0.1, 0.001), found(1.0, 0.001), found(0.1, 0.001), found(0.1, 0.01)


def passes(resin: CastingResin, found: Cure) -> str:
    """Say what limit of heat a cup passes last, and when."""
    passed = passed_in_cup(resin, found.cup)
    if not passed:
        return ""
    last = passed[-1]
    kelvin = celsius(last.limit.temperature_k)
    return f"; passes {kelvin} after {in_minutes(last.after_s)}: {last.limit.what}"


def conducted_row(resin: CastingResin) -> str:
    """Say what conduction in fine layers makes of the puddle."""
    gels_s, hottest_k = conducted(resin, 0.01)
    return f"{in_minutes(gels_s)}, {celsius(hottest_k)} in its middle (36 layers, BDF)"


def celsius(kelvin: float) -> str:
    """Show a temperature."""
    return f"{kelvin - ZERO_CELSIUS_K:.0f} °C"


def cups(axis: Axes) -> None:
    """Draw the cups over the time of their gel."""
    for number, (name, key) in enumerate(CLASSES.items()):
        resin = shipped_resin(key)
        course = cure(resin, CureSetup(0.1, ROOM_K, ROOM_K, ROOM_K)).cup
        colour = f"C{number}"
        axis.plot(course.t_s / resin.gel_s, course.temperature_k - ZERO_CELSIUS_K, colour,
                  label=name)  # fmt: skip
        low, high = PUBLISHED[key][3]
        axis.plot([2.6 + 0.1 * number] * 2, [low, high], colour, lw=4, alpha=0.5)
    axis.set(xlim=(0.0, 3.0), xlabel="time over gel time", ylabel="100 g in a cup [°C]")
    axis.legend(loc="upper left")


def films(axis: Axes) -> None:
    """Draw when films gel, beside conduction in fine layers."""
    depths = np.geomspace(0.0004, 0.015, 12)
    for number, (name, key) in enumerate(CLASSES.items()):
        resin = shipped_resin(key)
        gels = [
            cure(resin, CureSetup(0.1, ROOM_K, ROOM_K, ROOM_K, float(depth))).gel_film_s
            for depth in depths
        ]
        axis.loglog(1e3 * depths, np.array(gels) / resin.gel_s, f"C{number}", label=name)
        for depth in depths[1::3]:
            gels_s, _ = conducted(resin, float(depth))
            axis.plot(1e3 * depth, gels_s / resin.gel_s, f"C{number}x")
    axis.set(xlabel="film [mm]", ylabel="film's gel over the cup's")


def rooms(axis: Axes) -> None:
    """Draw working times in other rooms beside the rule of thumb."""
    celsiuses = np.arange(8.0, 36.0, 3.0)
    for number, (name, key) in enumerate(CLASSES.items()):
        resin = shipped_resin(key)
        times = [
            cure(resin, CureSetup(0.1, *[one + ZERO_CELSIUS_K] * 3)).working_time_s
            for one in celsiuses
        ]
        axis.semilogy(celsiuses, np.array(times) / resin.working_time_s, f"C{number}", label=name)
    axis.semilogy(celsiuses, 2.0 ** ((23.0 - celsiuses) / 10.0), "k:", label="half for 10 °C more")
    axis.set(xlabel="room [°C]", ylabel="working time over that at 23 °C")
    axis.legend()


if __name__ == "__main__":
    main()

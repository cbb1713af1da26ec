"""A whole weighing in simulated time: the weigher, a scale, a hand, and what goes wrong."""

import random
from collections.abc import Callable
from dataclasses import dataclass, field

from mildhusk.core.pouring.weighing import ScaleReading, WantedPart, Weigher, Weighing
from mildhusk.devices.protocol import Hello, line, read_line, weight_of
from mildhusk.devices.standins.hand import Hand
from mildhusk.devices.standins.scale import ScaleStandIn

PARTS = (WantedPart("A", 0.0932), WantedPart("B", 0.0839))
_STEP_S, _PATIENCE_S = 0.05, 300.0


@dataclass
class Faults:
    """What goes wrong, by chance; never twice at once."""

    seed: int
    lost: float = 0.0
    """How often the line to the scale is lost. [1/s]"""
    reboots: float = 0.0
    """How often the scale is switched off and on."""
    restarts: float = 0.0
    """How often what follows the weighing is started again, from what it kept."""


@dataclass
class Weighed:
    """What came of a weighing: what was logged, what was really poured, by part. [g]"""

    logged_g: dict[str, float]
    truth_g: dict[str, float]
    took_s: float
    state: Weighing
    said: list[str] = field(default_factory=list)


def weigh(
    scale: ScaleStandIn,
    parts: tuple[WantedPart, ...] = PARTS,
    faults: Faults | None = None,
    watch: Callable[[float, Weigher], None] | None = None,
) -> Weighed:
    """Weigh a charge; every line goes through the protocol, as over a wire."""
    chance = random.Random(faults.seed if faults else 0)
    weigher = _met(Weigher(Weighing(parts)), scale)
    now_s, gone_until_s, said = scale._now_s, 0.0, []
    ends_s = now_s + _PATIENCE_S
    while not weigher.state.is_done:
        now_s += _STEP_S
        assert now_s < ends_s, (weigher.say, weigher.state, said[-20:])
        heard = scale.advance(now_s)
        if now_s < gone_until_s:
            continue
        if gone_until_s:
            gone_until_s = 0.0
            weigher = _met(weigher, scale)
        for one in heard:
            told = read_line(one)
            weigher.read(ScaleReading(told.number("at"), weight_of(told), told.is_set("steady")))
        view = weigher.view
        scale.hear(read_line(line("show", say=view.say, part=view.part or "-")), now_s)
        if not said or said[-1] != f"{view.say} {view.part}":
            said.append(f"{view.say} {view.part}")
        if watch:
            watch(now_s, weigher)
        if faults is None:
            continue
        if chance.random() < faults.lost * _STEP_S:
            weigher.lose()
            gone_until_s = now_s + chance.uniform(0.3, 6.0)
        elif chance.random() < faults.reboots * _STEP_S:
            weigher.lose()
            scale.reboot()
            gone_until_s = now_s + chance.uniform(1.0, 5.0)
        elif chance.random() < faults.restarts * _STEP_S:
            weigher = _met(Weigher(weigher.state), scale)
    logged = {one.name: kg * 1e3 for one, kg in zip(parts, weigher.state.poured_kg, strict=True)}
    took_s = now_s - (ends_s - _PATIENCE_S)
    truth = dict(scale.hand.poured_g)
    return Weighed(logged, truth, took_s, weigher.state, said)


def unaided(scale: ScaleStandIn, parts: tuple[WantedPart, ...] = PARTS) -> dict[str, float]:
    """What the same hand pours that has only the scale's number to go by. [g]"""
    now_s, tared_g, shown_g = scale._now_s, 0.0, 0.0

    def wait(for_s: float, tell: Callable[[], str], part: str) -> None:
        nonlocal now_s, shown_g
        ends_s = now_s + for_s
        while now_s < ends_s:
            now_s += _STEP_S
            for one in scale.advance(now_s):
                shown_g = (weight_of(read_line(one)) or 0.0) * 1e3
            say = tell()
            scale.hear(read_line(line("show", say=say, part=part)), now_s)
            if say == "wait":
                ends_s = min(ends_s, now_s + 2.0)

    wait(3.0, lambda: "cup", "-")
    for one in parts:
        tared_g, wanted_g = shown_g, one.kg * 1e3

        def eye(wanted_g: float = wanted_g, tared_g: float = tared_g) -> str:
            left = wanted_g - (shown_g - tared_g)
            return "pour" if left > 0.15 * wanted_g else "slowly" if left > 0.0 else "wait"

        wait(120.0, eye, one.name)
    return dict(scale.hand.poured_g)


def _met(weigher: Weigher, scale: ScaleStandIn) -> Weigher:
    hello = Hello.of(read_line(scale.hello()))
    weigher.begin(hello.boot, hello.step_kg, hello.lag_s)
    return weigher


def new_scale(seed: int, **more: float) -> ScaleStandIn:
    """A scale with a hand of its own chance."""
    return ScaleStandIn(seed, Hand(seed, cup_g=random.Random(seed).uniform(6.0, 40.0)), **more)

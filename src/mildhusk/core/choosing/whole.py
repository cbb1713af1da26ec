"""The chain that does best as a whole, and holds no pair that harms."""

import math
from dataclasses import dataclass

from mildhusk.core.choosing.judging import (
    Judging,
    judge_casting,
    judge_moulds,
    judge_release,
    judge_rubber,
    judge_sealers,
    judge_shell,
)
from mildhusk.core.choosing.task import Judge, Link, Task
from mildhusk.core.materials.catalogue import AnyMaterial, CastingMaterial
from mildhusk.core.materials.compatibility import HARMFUL, PairVerdict
from mildhusk.core.materials.kinds import Circumstance, Release, Rubber, Sealer, ShellMaterial
from mildhusk.core.materials.traits import Trait


@dataclass(frozen=True, slots=True)
class Offered:
    """What the shelf offers for each link, judged once each."""

    task: Task
    judge: Judge
    castables: tuple[CastingMaterial, ...]
    rubbers: tuple[Rubber, ...]
    shells: tuple[ShellMaterial, ...]
    releases: tuple[Release, ...]
    sealers: tuple[Sealer, ...]
    paint: AnyMaterial | None

    @classmethod
    def of(cls, task: Task, shelf: tuple[AnyMaterial, ...], judge: Judge) -> "Offered":
        """Sort a shelf by link; each pair of materials is judged once."""
        known: dict[tuple[str, str], PairVerdict] = {}

        def once(first: AnyMaterial, second: AnyMaterial) -> PairVerdict:
            key = (first.key, second.key)
            if key not in known:
                known[key] = judge(first, second)
            return known[key]

        is_paint = (
            o for o in shelf if isinstance(o, Circumstance) and Trait.PAINT_TO_COME in o.traits
        )
        return cls(
            task,
            once,
            tuple(one for one in shelf if isinstance(one, CastingMaterial)),
            tuple(one for one in shelf if isinstance(one, Rubber)),
            tuple(one for one in shelf if isinstance(one, ShellMaterial)),
            tuple(one for one in shelf if isinstance(one, Release)),
            tuple(one for one in shelf if isinstance(one, Sealer)),
            next(is_paint, None),
        )

    def casting(self, one: CastingMaterial) -> Judging:
        """Judge what is cast."""
        return judge_casting(self.task, one)

    def rubber(self, one: Rubber, resin: CastingMaterial | None) -> Judging:
        """Judge a rubber for what is cast in it."""
        return judge_rubber(self.task, one, resin, self.judge)

    def shell(self, one: ShellMaterial) -> Judging:
        """Judge a shell."""
        return judge_shell(self.task, one)

    def release(
        self, one: Release, resin: CastingMaterial | None, rubber: Rubber | None
    ) -> Judging:
        """Judge a release for what is cast, and in what."""
        return judge_release(self.task, one, resin, rubber, self.paint, self.judge)

    def sealing(self, rubber: Rubber | None) -> tuple[Judging, ...]:
        """Judge what stands between master and a rubber."""
        return judge_sealers(self.task, self.sealers, rubber, self.judge)

    def harm(self, first: AnyMaterial, second: AnyMaterial) -> bool:
        """Say whether two materials may not stand in one chain."""
        return self.judge(first, second).verdict in HARMFUL


def best_whole(offered: Offered, chosen: dict[Link, str]) -> dict[Link, str]:
    """Return the keys of the whole chain that does best and holds no harmful pair; empty of none.

    Every casting is tried with every rubber, release and shell: some thousand chains.
    """
    best: dict[Link, str] = {}
    most = -math.inf

    def open_to(link: Link, judged: Judging) -> bool:
        return chosen[link] == judged.key if link in chosen else not judged.excluded

    shells = [(one, offered.shell(one)) for one in offered.shells]
    for resin in offered.castables:
        cast = offered.casting(resin)
        if not open_to(Link.CASTING, cast):
            continue
        for rubber in offered.rubbers:
            skin = offered.rubber(rubber, resin)
            if not open_to(Link.RUBBER, skin) or offered.harm(rubber, resin):
                continue
            moulds = [one for one in judge_moulds(offered.task, rubber) if open_to(Link.MOULD, one)]
            sealings = [one for one in offered.sealing(rubber) if open_to(Link.SEALER, one)]
            for release in offered.releases:
                parting = offered.release(release, resin, rubber)
                others = (resin, rubber)
                if not open_to(Link.RELEASE, parting) or any(
                    offered.harm(release, one) for one in others
                ):
                    continue
                fitting = [
                    outside
                    for shell, outside in shells
                    if open_to(Link.SHELL, outside)
                    and not any(offered.harm(shell, one) for one in (*others, release))
                ]
                if not moulds or not fitting or not sealings:
                    continue
                holding = max(moulds, key=lambda one: one.points)
                shell = max(fitting, key=lambda one: one.points)
                sealing = max(sealings, key=lambda one: one.points)
                parts = (cast, skin, holding, shell, parting, sealing)
                points = sum(one.points for one in parts)
                if points > most:
                    most = points
                    best = dict(zip(Link, (one.key for one in parts), strict=True))
    return best

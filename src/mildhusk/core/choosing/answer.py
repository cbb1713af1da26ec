"""The answer about a husk decided backwards."""

from dataclasses import dataclass

from mildhusk.core.choosing.chain import decide, given_up, is_whole
from mildhusk.core.choosing.disagreements import Disagreement, disagreements
from mildhusk.core.choosing.task import Candidate, Judge, Link, Task
from mildhusk.core.materials.catalogue import AnyMaterial


@dataclass(frozen=True, slots=True)
class Chain:
    """The links with their candidates, best first, and where practitioners disagree.

    Parameters
    ----------
    needed_stretch : float
        That the candidates were judged by. [1]
    links : dict of Link to tuple of Candidate
    schools : tuple of Disagreement
    given_up : tuple of str
        Where no whole chain keeps all wishes: which one to give up.
    """

    needed_stretch: float
    links: dict[Link, tuple[Candidate, ...]]
    schools: tuple[Disagreement, ...]
    given_up: tuple[str, ...]


def decided(
    task: Task,
    shelf: tuple[AnyMaterial, ...],
    judge: Judge,
    taken: dict[Link, str] | None = None,
) -> Chain:
    """Decide backwards, and lay the disagreements beside it.

    Parameters
    ----------
    task : Task
    shelf : tuple of AnyMaterial
    judge : Judge
    taken : dict of Link to str, optional
        Keys that were chosen instead of the first.

    Returns
    -------
    Chain
    """
    links = decide(task, shelf, judge, taken)
    return Chain(
        task.needed_stretch,
        links,
        disagreements(task, shelf, links),
        () if is_whole(links, shelf, judge) else given_up(task, shelf, judge),
    )

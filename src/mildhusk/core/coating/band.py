"""Grid convergence: refine the faces until the wall changes by no more than a band."""

from collections.abc import Callable
from typing import NamedTuple

from mildhusk.core.checks import require_between
from mildhusk.core.coating.coats import Coated
from mildhusk.core.coating.figures import wall_figures
from mildhusk.core.errors import CoatingError

EDGES_M = (0.0095, 0.0067, 0.0048, 0.0034, 0.0024)
"""Each has twice the faces of the one before. [m]"""
_LEAST, _MOST = 0.01, 0.5


class Settled(NamedTuple):
    """A wall on the longest edges that are fine enough, and how far the ones before were off."""

    mould: Coated
    edge_m: float
    band: float


def settled_wall(simulate: Callable[[float], Coated], band: float) -> Settled:
    """Simulate with shorter and shorter edges until two agree.

    Parameters
    ----------
    simulate : callable
        Takes the edge [m] and returns the coats.
    band : float
        By how much mean, 5th and 95th percentile may differ between the last two. [1]

    Raises
    ------
    CoatingError
        A band out of range, or one that the finest edges do not come to.
    """
    require_between(
        band, _LEAST, _MOST, name="The band", field="band", error=CoatingError, shown_in="%",
        scale=100.0,
    )  # fmt: skip
    before: tuple[float, ...] | None = None
    apart = float("inf")
    for edge_m in EDGES_M:
        mould = simulate(edge_m)
        found = wall_figures(mould.grid, mould.wall_m, 0.0, 1.0)
        now = (found.mean_m, found.p05_m, found.p95_m)
        if before is not None:
            least = 0.01 * found.mean_m
            apart = max(
                abs(one - other) / max(one, least) for one, other in zip(now, before, strict=True)
            )
            if apart <= band:
                return Settled(mould, edge_m, apart)
        before = now
    raise CoatingError(
        f"With edges of {EDGES_M[-1] * 1e3:.1f} mm the wall still changes by {apart * 100:.0f} %; "
        f"take a wider band than {band * 100:.0f} %, or a smaller charge, which lands more surely.",
        "band",
    )
